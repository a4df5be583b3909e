import { expect, it } from 'vitest';
import { hasWords } from './fold';

it('finds words in any order, without regard to case and accents', () => {
	expect(hasWords('Grès à Voltzia, fin', 'VOLTZIA gres')).toBe(true);
	expect(hasWords('Sandstone', 'sand lime')).toBe(false);
	expect(hasWords('Sandstone', '  ')).toBe(true);
	expect(hasWords('', 'a')).toBe(false);
});
