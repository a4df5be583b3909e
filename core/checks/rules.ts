import type { Rule } from './finding';
import { againstTerrain } from './rules/against-terrain';
import { badDate } from './rules/bad-date';
import { codeVariants } from './rules/code-variants';
import { deeperThanHole } from './rules/deeper-than-hole';
import { duplicateCollar } from './rules/duplicate-collar';
import { duplicateRow } from './rules/duplicate-row';
import { duplicateSample } from './rules/duplicate-sample';
import { duplicateStation } from './rules/duplicate-station';
import { fromNotAboveTo } from './rules/from-not-above-to';
import { gap } from './rules/gap';
import { lateStart } from './rules/late-start';
import { misplacedCollar } from './rules/misplaced-collar';
import { missingRows } from './rules/missing-rows';
import { mixedDipSigns } from './rules/mixed-dip-signs';
import { negativeValue } from './rules/negative-value';
import { notANumber } from './rules/not-a-number';
import { outOfRange } from './rules/out-of-range';
import { outlier } from './rules/outlier';
import { outsideExtent } from './rules/outside-extent';
import { overlap } from './rules/overlap';
import { sameInterval } from './rules/same-interval';
import { strikeOrDip } from './rules/strike-or-dip';
import { tightBend } from './rules/tight-bend';
import { unitOrder } from './rules/unit-order';
import { unknownHole } from './rules/unknown-hole';

/** All rules, in the order in which they run: a row held back by one is not looked at by the next. */
export const RULES: readonly Rule[] = [
	notANumber,
	outOfRange,
	misplacedCollar,
	duplicateCollar,
	duplicateRow,
	unknownHole,
	duplicateStation,
	fromNotAboveTo,
	deeperThanHole,
	sameInterval,
	overlap,
	gap,
	lateStart,
	missingRows,
	mixedDipSigns,
	tightBend,
	againstTerrain,
	outsideExtent,
	duplicateSample,
	outlier,
	negativeValue,
	badDate,
	strikeOrDip,
	codeVariants,
	unitOrder
];
