import type { Rule } from './finding';
import type { Severity } from '../tables/finding';

/** What a project has changed in a rule. */
interface RuleSetting {
	severity?: Severity;
	/** The rule is not run; the reason is kept with it. */
	silenced?: boolean;
	reason?: string;
	bounds?: Record<string, number>;
}

/** Changed rules by id. */
export type RuleSettings = Record<string, RuleSetting>;

export const boundOf = (rule: Rule, settings: RuleSettings, key: string): number =>
	settings[rule.id]?.bounds?.[key] ?? rule.bounds?.[key]?.value ?? NaN;
