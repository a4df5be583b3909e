import type { Operation } from './operation';
import { catalogueOperations } from './catalogue';
import { checkOperations } from './check';
import { gatherOperations } from './gather';
import { interpretOperations } from './interpret';
import { logOperations } from './logs';
import { relogOperations } from './relog';
import { presentOperations } from './present';
import { projectOperations } from './projects';
import { columnOperations } from './table-columns';
import { tableOperations } from './tables';
import { sectionOperations } from './sections';
import { stratigraphyOperations } from './stratigraphy';
import { workOperations } from './work';
import { keptModelOperations } from './kept-models';
import { modelOperations } from './models';
import { derivedOperations } from './derived';
import { resultOperations } from './results';
import { routineOperations } from './routines';
import { workbenchOperations } from './workbench';

const declared = [
	...workOperations,
	...projectOperations,
	...gatherOperations,
	...tableOperations,
	...columnOperations,
	...checkOperations,
	...catalogueOperations,
	...logOperations,
	...relogOperations,
	...stratigraphyOperations,
	...interpretOperations,
	...sectionOperations,
	...modelOperations,
	...resultOperations,
	...derivedOperations,
	...routineOperations,
	...keptModelOperations,
	...workbenchOperations,
	...presentOperations
];

/** Every operation of the API. The first that fits an address is taken. */
export const OPERATIONS: readonly Operation[] = declared;

/** What the operations take and answer, as types: the screens read no more of the server than this. */
export type Contracts = NonNullable<(typeof declared)[number]['contract']>;
