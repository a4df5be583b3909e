import type { AnswerOf } from './contract';

/** What the API answers, by the words of the screens: all of it is typed by the contracts of the operations. */
export type Project = AnswerOf<'listProjects'>['projects'][number];
/** The project that is open. */
export type OpenProject = AnswerOf<'getProject'>['project'];
export type ProjectObject = AnswerOf<'getProject'>['objects'][number];
/** A change that can be undone, or done again. */
export type NextChange = NonNullable<AnswerOf<'getProject'>['changes']['undo']>;
/** A result that somebody made, with all that is told of it. */
export type MadeResult = AnswerOf<'getResult'>;
export type LogChanges = AnswerOf<'listRelogged'>;
export type LogPreview = AnswerOf<'previewRelog'>;
export type LogDifferences = AnswerOf<'compareLogs'>;
export type ColumnEvidence = AnswerOf<'getColumnEvidence'>;
export type CodeGroups = AnswerOf<'proposeCodeGroups'>;
export type RecipeInfo = AnswerOf<'listRecipes'>['recipes'][number];
export type Suggestion = AnswerOf<'suggestResult'>;
export type Interpretation = AnswerOf<'getInterpretation'>;
/** A section beside the main one; what it has not of its own is that of the main one. */
export type SectionBeside = Interpretation['sections'][number];
export type FindingList = AnswerOf<'listFindings'>;
export type Finding = FindingList['findings'][number];
export type Job = AnswerOf<'getJob'>;
/** What a file is taken for; which parts there are depends on what it is. */
export type Preview = AnswerOf<'previewFile'>;
export type ModelReport = AnswerOf<'getModel'>;
/** A built model that was kept under a name. */
export type KeptModel = AnswerOf<'listKeptModels'>['models'][number];
/** A hole with its path table. */
export type HoleSheet = AnswerOf<'getHole'>;
export type RowPage = AnswerOf<'listRows'>;
