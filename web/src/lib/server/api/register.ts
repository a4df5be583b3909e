import type { Operation } from './operation';
import { catalogueOperations } from './catalogue';
import { checkOperations } from './check';
import { gatherOperations } from './gather';
import { interpretOperations } from './interpret';
import { logOperations } from './logs';
import { presentOperations } from './present';
import { projectOperations } from './projects';
import { columnOperations } from './table-columns';
import { tableOperations } from './tables';
import { stratigraphyOperations } from './stratigraphy';
import { workOperations } from './work';
import { doubtOperations } from './doubt';
import { keptModelOperations } from './kept-models';
import { modelOperations } from './models';
import { resultOperations } from './results';
import { workbenchOperations } from './workbench';

/** Every operation of the API. The first that fits an address is taken. */
export const OPERATIONS: readonly Operation[] = [
	...workOperations,
	...projectOperations,
	...gatherOperations,
	...tableOperations,
	...columnOperations,
	...checkOperations,
	...catalogueOperations,
	...logOperations,
	...stratigraphyOperations,
	...interpretOperations,
	...modelOperations,
	...resultOperations,
	...doubtOperations,
	...keptModelOperations,
	...workbenchOperations,
	...presentOperations
];
