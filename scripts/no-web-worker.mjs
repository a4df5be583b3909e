/** Stands in for `web-worker` where no nested worker is ever started. */
export default class NoWebWorker {
	constructor() {
		throw new Error('no nested workers here');
	}
}
