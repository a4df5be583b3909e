import { ageCurves } from './age-curves';
import { comparison } from './comparison';
import { contacts } from './contacts';
import { crossedModels } from './crossed-models';
import { depthToUnit } from './depth-to-unit';
import { doubt } from './doubt';
import { fields } from './fields';
import { calculatedGrid } from './grids/calculated-grid';
import { shapedGrid } from './grids/shaped-grid';
import { resampledGrid } from './grids/resampled-grid';
import { contours } from './grids/contours';
import { nearestFaces } from './grids/nearest-faces';
import { zoneTable } from './grids/zone-statistics';
import { sampled } from './grids/sampled';
import { gridDifference } from './grids/grid-difference';
import { gridAbove } from './grids/grid-above';
import { flowArrows } from './grids/flow-arrows';
import { gridProfile } from './grids/grid-profile';
import { holeValues } from './grids/hole-values';
import { unitsBelow } from './water/units-below';
import { waterLevels } from './water/water-levels';
import { cleanedStations } from './surveys/cleaned-stations';
import { driftCorrected } from './surveys/drift-corrected';
import { levelledStations } from './surveys/levelled-stations';
import { resampledStations } from './surveys/resampled-stations';
import { gravityReduced } from './surveys/gravity-reduced';
import { fieldFilter } from './potential/field-filter';
import { modelledField } from './potential/modelled-field';
import { gridded } from './grids/gridded';
import { holePaths } from './hole-paths';
import { model } from './model';
import type { Question, Recipe } from './recipe';
import { linesOnSections } from './lines-on-sections';
import { orderOfCodes } from './order-of-codes';
import { section } from './section';
import { solidsAtRank } from './solids-at-rank';
import { surfaceGeology } from './surface-geology';
import { thickness } from './thickness';
import { unitElevation } from './unit-elevation';

/** All recipes, by the kind of object that they make. The steps of a model come first, in the order in which they follow on each other. */
export const RECIPES: readonly Recipe[] = [
	holePaths,
	contacts,
	fields,
	model,
	section,
	surfaceGeology,
	linesOnSections,
	thickness,
	unitElevation,
	depthToUnit,
	crossedModels,
	solidsAtRank,
	comparison,
	doubt,
	orderOfCodes,
	ageCurves,
	gridded,
	calculatedGrid,
	shapedGrid,
	resampledGrid,
	contours,
	nearestFaces,
	zoneTable,
	sampled,
	gridDifference,
	gridAbove,
	flowArrows,
	gridProfile,
	holeValues,
	waterLevels,
	unitsBelow,
	cleanedStations,
	driftCorrected,
	levelledStations,
	resampledStations,
	gravityReduced,
	fieldFilter,
	modelledField
];

const byId = new Map(RECIPES.map((r) => [r.id, r]));

/** The recipe of a kind of object; undefined of a source. */
export const recipeOf = (kind: string): Recipe | undefined => byId.get(kind);
/** The recipe that answers what screens and services ask by themselves. */
export const recipeFor = (question: Question): Recipe => RECIPES.find((r) => r.answers === question)!;
/** The recipe that is called so, or answers what is called so. */
export const recipeNamed = (name: string): Recipe | undefined => recipeOf(name) ?? RECIPES.find((r) => r.answers === name);
/** Whether objects of a kind are built and stored. */
export const isBuilt = (kind: string): boolean => byId.has(kind) && !byId.get(kind)!.live;
/** Kinds that every project has by itself, and no model of its own: hole paths, the section. */
export const isByItself = (kind: string): boolean => byId.get(kind)?.step?.shared === true || byId.get(kind)?.live !== undefined;
/** The steps of a model, in the order in which they follow on each other. */
export const STEPS: readonly Recipe[] = RECIPES.filter((r) => r.step && !r.live);
/** Kinds of derived object that people make and name. */
export const MADE_KINDS: readonly string[] = RECIPES.filter((r) => !r.step).map((r) => r.id);
