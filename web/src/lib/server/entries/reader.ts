import { readFile, writeFile } from 'node:fs/promises';
import { writeFileSync } from 'node:fs';
import { setPriority } from 'node:os';
import { deserialize, serialize } from 'node:v8';
import * as tasks from '../threads/foreign-tasks';

/** A process that reads files from users, one after the other: it is told a task and the file that its message lies in, and puts the answer beside it. */
try {
	setPriority(5);
	// When memory runs out, this process is the one to go.
	writeFileSync('/proc/self/oom_score_adj', '900');
} catch {
	// Not everywhere allowed.
}

process.on('message', (m: { name: keyof typeof tasks; path: string }) => {
	void (async () => {
		let answer: unknown;
		try {
			const message = deserialize(await readFile(m.path)) as never;
			answer = await (tasks[m.name] as (message: never) => Promise<unknown>)(message);
		} catch (error) {
			answer = {
				problem: {
					kind: 'damaged-file',
					message: `the file can not be read: ${error instanceof Error ? error.message.slice(0, 200) : String(error)}`,
					hint: 'It is damaged, or uses something that is not read. Save or send it again.'
				}
			};
		}
		await writeFile(`${m.path}.out`, serialize(answer), { mode: 0o600 });
		process.send!('done');
	})();
});
process.on('disconnect', () => process.exit(0));
