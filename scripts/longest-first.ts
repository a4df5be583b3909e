import { BaseSequencer, type TestSpecification } from 'vitest/node';

/** Test files that take longest: where one of them begins last, a core waits for it. */
const LONG = [
	'core/model/imperfect',
	'core/model/properties',
	'core/model/figures',
	'cli/cli',
	'demo/tarrow/tarrow',
	'e2e/api/api',
	'e2e/api/builds',
	'e2e/browser/modelling',
	'e2e/browser/results',
	'e2e/browser/first-minutes',
	'e2e/browser/looking'
];

/** Begins with the files that take longest, so that both cores end together. */
export class LongestFirst extends BaseSequencer {
	override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
		const rank = ({ moduleId }: TestSpecification) => {
			const at = LONG.findIndex((l) => moduleId.endsWith(`${l}.test.ts`));
			return at < 0 ? LONG.length : at;
		};
		return (await super.sort(files)).sort((a, b) => rank(a) - rank(b));
	}
}
