import { unitColors } from '#core/styles/unit-colors';
import type { Unit } from '#core/units/column';

/** A unit of a name, with an id that no other has and a colour that differs from theirs. @param taken units outside the column, whose ids are taken, too */
export function newUnit(name: string, units: readonly Unit[], taken: readonly Pick<Unit, 'id'>[] = []): Unit {
	const plain =
		name
			.trim()
			.toLowerCase()
			.replace(/[^a-z0-9]+/g, '-')
			.slice(0, 36) || `unit-${units.length + 1}`;
	const known = new Set([...taken, ...units].map((u) => u.id));
	let id = plain;
	for (let n = 2; known.has(id); n++) id = `${plain}-${n}`;
	return { id, name: name.trim(), color: unitColors([...units, { name: name.trim() }]).at(-1)!, contact: 'conformable' };
}
