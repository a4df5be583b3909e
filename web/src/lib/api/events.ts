interface EventHandlers {
	/** Events are heard from now on; what happened until now may have been missed. */
	connected(): void;
	lost(): void;
	/** One for each topic. */
	topics: Record<string, (data: string) => void>;
}

/**
 * Follows the events of the server while the page is in sight. A page that is out of sight, or kept to go back to, gives its connection
 * back: a browser holds six to one server, and what a seventh page asks for or stores would wait.
 * @returns stops following
 */
export function followEvents(project: string, handlers: EventHandlers): () => void {
	let source: EventSource | null = null;
	const close = () => {
		source?.close();
		source = null;
	};
	const open = () => {
		if (source) return;
		source = new EventSource(`/api/v1/projects/${project}/events`);
		source.addEventListener('hello', () => handlers.connected());
		source.onerror = () => handlers.lost();
		for (const [topic, handle] of Object.entries(handlers.topics))
			source.addEventListener(topic, (e) => handle((e as MessageEvent<string>).data));
	};
	const sight = () => (document.visibilityState === 'hidden' ? close() : open());
	document.addEventListener('visibilitychange', sight);
	addEventListener('pagehide', close);
	addEventListener('pageshow', sight);
	sight();
	return () => {
		document.removeEventListener('visibilitychange', sight);
		removeEventListener('pagehide', close);
		removeEventListener('pageshow', sight);
		close();
	};
}
