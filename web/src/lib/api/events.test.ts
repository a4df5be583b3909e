import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { followEvents } from './events';

/** A server's side of the events, and a page that comes into sight and leaves it. */
class FakeSource {
	static all: FakeSource[] = [];
	readonly heard = new Map<string, (e: { data: string }) => void>();
	onerror: (() => void) | null = null;
	closed = false;

	constructor(readonly url: string) {
		FakeSource.all.push(this);
	}
	addEventListener(topic: string, handle: (e: { data: string }) => void) {
		this.heard.set(topic, handle);
	}
	close() {
		this.closed = true;
	}
	say(topic: string, data = '') {
		this.heard.get(topic)?.({ data });
	}
}

const page = Object.assign(new EventTarget(), { visibilityState: 'visible' });
const view = new EventTarget();
const see = (state: string) => {
	page.visibilityState = state;
	page.dispatchEvent(new Event('visibilitychange'));
};

beforeEach(() => {
	FakeSource.all = [];
	page.visibilityState = 'visible';
	vi.stubGlobal('EventSource', FakeSource);
	vi.stubGlobal('document', page);
	vi.stubGlobal('addEventListener', view.addEventListener.bind(view));
	vi.stubGlobal('removeEventListener', view.removeEventListener.bind(view));
});
const stops: (() => void)[] = [];
afterEach(() => {
	for (const stop of stops.splice(0)) stop();
	vi.unstubAllGlobals();
});

const follow = () => {
	const said: string[] = [];
	const stop = followEvents('p', {
		connected: () => said.push('connected'),
		lost: () => said.push('lost'),
		topics: { job: (data) => said.push(`job ${data}`) }
	});
	stops.push(stop);
	return { said, stop };
};

it('events are handed on by topic, and each hello, the first one too, says that something may have been missed', () => {
	const { said } = follow();
	expect(FakeSource.all.map((s) => s.url)).toEqual(['/api/v1/projects/p/events']);
	const [source] = FakeSource.all;
	source!.say('hello');
	source!.say('job', '7');
	source!.say('other', 'x');
	source!.onerror!();
	source!.say('hello');
	expect(said).toEqual(['connected', 'job 7', 'lost', 'connected']);
});

it('a page out of sight gives its connection back, and asks anew when it is seen again', () => {
	const { said } = follow();
	FakeSource.all[0]!.say('hello');
	see('hidden');
	expect(FakeSource.all[0]!.closed).toBe(true);
	see('hidden');
	see('visible');
	see('visible');
	expect(FakeSource.all).toHaveLength(2);
	FakeSource.all[1]!.say('hello');
	expect(said).toEqual(['connected', 'connected']);
});

it('a page that is opened out of sight waits until it is seen', () => {
	page.visibilityState = 'hidden';
	follow();
	expect(FakeSource.all).toHaveLength(0);
	see('visible');
	expect(FakeSource.all).toHaveLength(1);
});

it('a page that is left and taken back from the history follows again; one that stopped does not', () => {
	const { stop } = follow();
	view.dispatchEvent(new Event('pagehide'));
	expect(FakeSource.all[0]!.closed).toBe(true);
	view.dispatchEvent(new Event('pageshow'));
	expect(FakeSource.all).toHaveLength(2);
	stop();
	expect(FakeSource.all[1]!.closed).toBe(true);
	view.dispatchEvent(new Event('pageshow'));
	see('visible');
	expect(FakeSource.all).toHaveLength(2);
});
