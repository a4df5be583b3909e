import { afterEach, expect, it, vi } from 'vitest';
import { keepModel, keptModel } from './last-model';

afterEach(() => vi.unstubAllGlobals());

it('the model worked on last is remembered by project; a browser that refuses storage forgets it and nothing breaks', () => {
	const store = new Map<string, string>();
	vi.stubGlobal('localStorage', { getItem: (k: string) => store.get(k) ?? null, setItem: (k: string, v: string) => store.set(k, v) });
	keepModel('a', 'one');
	keepModel('b', 'two');
	expect([keptModel('a'), keptModel('b'), keptModel('c')]).toEqual(['one', 'two', null]);
	const refuse = () => {
		throw new Error('denied');
	};
	vi.stubGlobal('localStorage', { getItem: refuse, setItem: refuse });
	expect(() => keepModel('a', 'three')).not.toThrow();
	expect(keptModel('a')).toBeNull();
});
