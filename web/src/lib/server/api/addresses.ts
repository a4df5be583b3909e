import { OPERATIONS } from './register';
import type { Operation } from './operation';

const line = (o: Operation): string => {
	const parts = [
		`method: '${o.method.toUpperCase()}'`,
		`path: '${o.path}'`,
		...(o.ofModel ? ['ofModel: true'] : []),
		...(o.body && o.body !== 'bytes' ? ['json: true'] : [])
	];
	return `\t${o.id}: { ${parts.join(', ')} }`;
};

/** The module that tells the screens where each operation is; its types they have from the contracts. */
export const addressesModule = (): string => `// Made of the register of operations by \`node dist/clients.js\`: do not change it by hand.
/** Where each operation of the API is, whether it is about one model, and whether it takes JSON. */
export const ADDRESSES = {
${OPERATIONS.map(line).join(',\n')}
} as const;
`;
