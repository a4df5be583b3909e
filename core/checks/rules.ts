import type { Rule } from './finding';
import { aboveHundred } from './rules/above-hundred';
import { againstTerrain } from './rules/against-terrain';
import { badDate } from './rules/bad-date';
import { codeVariants } from './rules/code-variants';
import { collarDirection } from './rules/collar-direction';
import { collarsElsewhere } from './rules/collars-elsewhere';
import { deeperThanHole } from './rules/deeper-than-hole';
import { duplicateCollar } from './rules/duplicate-collar';
import { duplicateRow } from './rules/duplicate-row';
import { duplicateSample } from './rules/duplicate-sample';
import { duplicateStation } from './rules/duplicate-station';
import { earlyLevel } from './rules/early-level';
import { emptyCode } from './rules/empty-code';
import { fileRemark } from './rules/file-remark';
import { gap } from './rules/gap';
import { lateStart } from './rules/late-start';
import { lateStation } from './rules/late-station';
import { misplacedCollar } from './rules/misplaced-collar';
import { missingRows } from './rules/missing-rows';
import { mixedDipSigns } from './rules/mixed-dip-signs';
import { negativeValue } from './rules/negative-value';
import { notANumber } from './rules/not-a-number';
import { oddLine } from './rules/odd-line';
import { otherUnit } from './rules/other-unit';
import { outOfRange } from './rules/out-of-range';
import { outlier } from './rules/outlier';
import { outsideExtent } from './rules/outside-extent';
import { overlap } from './rules/overlap';
import { outdatedRelogging, unplacedRelogging } from './rules/relogging';
import { againstScheme, ranksDisagree } from './rules/schemes';
import { sameInterval } from './rules/same-interval';
import { shortLog } from './rules/short-log';
import { strikeOrDip } from './rules/strike-or-dip';
import { tightBend } from './rules/tight-bend';
import { twinCollars } from './rules/twin-collars';
import { unitOrder } from './rules/unit-order';
import { unknownHole } from './rules/unknown-hole';
import { fromNotAboveTo } from './rules/from-not-above-to';

/** All rules, in the order in which they run: a row held back by one is not looked at by the next. */
export const RULES: readonly Rule[] = [
	oddLine,
	fileRemark,
	notANumber,
	outOfRange,
	misplacedCollar,
	collarsElsewhere,
	duplicateCollar,
	twinCollars,
	duplicateRow,
	unknownHole,
	duplicateStation,
	fromNotAboveTo,
	deeperThanHole,
	sameInterval,
	overlap,
	gap,
	lateStart,
	shortLog,
	emptyCode,
	missingRows,
	mixedDipSigns,
	lateStation,
	collarDirection,
	tightBend,
	againstTerrain,
	outsideExtent,
	duplicateSample,
	outlier,
	otherUnit,
	aboveHundred,
	negativeValue,
	badDate,
	earlyLevel,
	strikeOrDip,
	codeVariants,
	unitOrder,
	againstScheme,
	ranksDisagree,
	outdatedRelogging,
	unplacedRelogging
];
