// Changes a file a little, again and again, and sees whether the tests that import it notice.
//   node scripts/mutate.mjs [--most N] [--seed N] [FILES]
// Without files it takes some of core/. The file itself is put back after every change, also when this is stopped.
import { spawnSync } from 'node:child_process';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import ts from 'typescript';

const args = process.argv.slice(2);
const option = (name, otherwise) => {
	const at = args.indexOf(name);
	return at < 0 ? otherwise : Number(args.splice(at, 2)[1]);
};
const most = option('--most', 20);
const seed = option('--seed', Date.now() % 1_000_000);
const files = args.length ? args : sourcesOf('core');
console.log(`seed ${seed}, at most ${most} changes`);

/** Same numbers for the same seed (mulberry32). */
let state = seed;
function random() {
	state = (state + 0x6d2b79f5) | 0;
	let t = Math.imul(state ^ (state >>> 15), 1 | state);
	t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
	return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
}

function sourcesOf(folder) {
	return readdirSync(folder, { withFileTypes: true, recursive: true })
		.filter((e) => e.isFile() && e.name.endsWith('.ts') && !e.name.endsWith('.test.ts') && !e.parentPath.includes('generated'))
		.map((e) => join(e.parentPath, e.name));
}

const K = ts.SyntaxKind;
/** What each operator is exchanged for. */
const OTHER = new Map([
	[K.PlusToken, '-'],
	[K.MinusToken, '+'],
	[K.AsteriskToken, '/'],
	[K.SlashToken, '*'],
	[K.LessThanToken, '<='],
	[K.LessThanEqualsToken, '<'],
	[K.GreaterThanToken, '>='],
	[K.GreaterThanEqualsToken, '>'],
	[K.EqualsEqualsEqualsToken, '!=='],
	[K.ExclamationEqualsEqualsToken, '==='],
	[K.AmpersandAmpersandToken, '||'],
	[K.BarBarToken, '&&'],
	[K.PlusEqualsToken, '-='],
	[K.MinusEqualsToken, '+=']
]);

/** @returns {{ start: number; end: number; text: string }[]} */
function changesOf(source, file) {
	const tree = ts.createSourceFile(file, source, ts.ScriptTarget.Latest, true);
	const found = [];
	const put = (node, text) => found.push({ start: node.getStart(), end: node.getEnd(), text });
	const visit = (node) => {
		if (ts.isTypeNode(node) || ts.isImportDeclaration(node) || ts.isInterfaceDeclaration(node) || ts.isTypeAliasDeclaration(node)) return;
		if (ts.isBinaryExpression(node)) {
			const other = OTHER.get(node.operatorToken.kind);
			// A plus between texts is none between numbers; exchanging it only makes NaN of it.
			if (other && !(ts.isStringLiteralLike(node.left) || ts.isStringLiteralLike(node.right))) put(node.operatorToken, other);
		} else if (ts.isNumericLiteral(node)) put(node, node.text === '0' ? '1' : node.text === '1' ? '2' : `(${node.text} * 1.5)`);
		else if (ts.isPrefixUnaryExpression(node) && node.operator === K.ExclamationToken) put(node, node.operand.getText());
		else if (ts.isPrefixUnaryExpression(node) && node.operator === K.MinusToken) put(node, node.operand.getText());
		else if (ts.isIfStatement(node)) put(node.expression, 'false');
		else if (ts.isConditionalExpression(node)) put(node.condition, 'true');
		else if (node.kind === K.TrueKeyword) put(node, 'false');
		else if (node.kind === K.FalseKeyword) put(node, 'true');
		ts.forEachChild(node, visit);
	};
	visit(tree);
	return found;
}

const originals = new Map(files.map((f) => [f, readFileSync(f, 'utf8')]));
const all = files.flatMap((file) => changesOf(originals.get(file), file).map((c) => ({ file, ...c })));
for (let i = all.length - 1; i > 0; i--) {
	const j = Math.floor(random() * (i + 1));
	[all[i], all[j]] = [all[j], all[i]];
}
let current = null;
const putBack = () => current && writeFileSync(current, originals.get(current));
process.on('exit', putBack);
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => process.exit(130));

/** Whether the tests pass: those beside a file first, which are quick, then all that import it. */
function passes(file) {
	for (const which of [
		['run', '--passWithNoTests', `${dirname(file)}/`],
		['related', '--run', file]
	]) {
		const run = spawnSync('npx', ['vitest', ...which, '--bail', '1', '--project', 'unit'], {
			encoding: 'utf8',
			timeout: 240_000,
			env: { ...process.env, MALACHITE_TEST_SEED: String(seed) }
		});
		last = `${run.stdout}\n${run.stderr}`;
		if (run.status !== 0) return false;
	}
	return true;
}
let last = '';

// Where the tests fail without any change, every change would seem to be noticed.
for (const file of new Set(all.slice(0, most).map((c) => c.file)))
	if (!passes(file)) {
		console.error(`the tests of ${file} fail as it is:\n${last.slice(-2000)}`);
		process.exit(2);
	}

let noticed = 0;
const missed = [];
for (const change of all.slice(0, most)) {
	const source = originals.get(change.file);
	const line = source.slice(0, change.start).split('\n').length;
	const where = `${change.file}:${line}  ${source.slice(change.start, change.end).replace(/\s+/g, ' ').slice(0, 60)}  ->  ${change.text}`;
	current = change.file;
	writeFileSync(change.file, source.slice(0, change.start) + change.text + source.slice(change.end));
	const noticedBy = !passes(change.file);
	putBack();
	current = null;
	// A change that never ends is noticed, too.
	if (!noticedBy) {
		missed.push(where);
		console.log(`missed   ${where}`);
	} else {
		noticed++;
		console.log(`noticed  ${where}`);
	}
}
console.log(`${noticed} noticed, ${missed.length} missed of ${all.length} possible changes`);
process.exitCode = missed.length ? 1 : 0;
