import { AsyncLocalStorage } from 'node:async_hooks';

/** Who acts, and in which browser. The one place that decides it: sign-in will take the place of the local owner here. */
interface Actor {
	name: string;
	/** Tells the browsers of one person apart; empty for what asks without one. */
	session: string;
}

const acting = new AsyncLocalStorage<Actor>();
const SESSION = /^[\w-]{1,64}$/;

/** Name of the one who works on this machine: `MALACHITE_OWNER`. */
const owner = (process.env['MALACHITE_OWNER'] ?? '').trim().slice(0, 200) || 'local owner';

/** Header in which a browser says which of several it is. */
const SESSION_HEADER = 'x-malachite-session';

/** Who sends a request: the local owner, until there is sign-in. */
export function actorOf(request: Request): Actor {
	const session = request.headers.get(SESSION_HEADER) ?? '';
	return { name: owner, session: SESSION.test(session) ? session : '' };
}

/** Runs work in the name of somebody; everything that it writes carries that name. */
export const actAs = <T>(actor: Actor, work: () => T): T => acting.run(actor, work);

export const actor = (): Actor => acting.getStore() ?? { name: owner, session: '' };
