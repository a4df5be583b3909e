import { ADDRESSES } from './addresses';
import { addressOf, ask, askBytes, askFollowed, sendLeaving, startWork, upload } from './client';
import type { AnswerOf, BytesId, FollowedId, Given, GivenArguments, JsonId, OperationId, UploadId, WorkId } from './contract';

/** What an operation is given where the project is known. */
export type Here<I extends OperationId> = Omit<Given<I>, 'project'>;
type HereArguments<I extends OperationId> = GivenArguments<Here<I>>;

/** The operations of one project; those about a model are about the one at hand. */
export class OfProject {
	/** @param model id of the model at hand; null is the first one */
	constructor(
		private readonly project: () => string,
		private readonly model: () => string | null
	) {}

	private whole<I extends OperationId>(id: I, given: Here<I> | undefined): Given<I> {
		const model = 'ofModel' in ADDRESSES[id] ? { model: this.model() } : {};
		return { project: this.project(), ...model, ...given } as unknown as Given<I>;
	}

	/** Where an operation is, for links. */
	address<I extends OperationId>(id: I, ...[given]: HereArguments<I>): string {
		return (addressOf as (id: I, given: Given<I>) => string)(id, this.whole(id, given));
	}

	/** @throws ApiProblem */
	ask<I extends JsonId>(id: I, ...[given]: HereArguments<I>): Promise<AnswerOf<I>> {
		return (ask as (id: I, given: Given<I>) => Promise<AnswerOf<I>>)(id, this.whole(id, given));
	}

	/** See `askFollowed`. @throws ApiProblem */
	askFollowed<I extends FollowedId>(id: I, ...[given]: HereArguments<I>): Promise<{ body: AnswerOf<I>; snapshot: string | null }> {
		return (askFollowed as (id: I, given: Given<I>) => Promise<{ body: AnswerOf<I>; snapshot: string | null }>)(id, this.whole(id, given));
	}

	/** @throws ApiProblem */
	bytes<I extends BytesId>(id: I, given: Here<I>, signal?: AbortSignal): Promise<Uint8Array> {
		return askBytes(id, this.whole(id, given), signal);
	}

	/** Starts work in the background; see `startWork`. @throws ApiProblem */
	start<I extends WorkId>(id: I, ...[given]: HereArguments<I>): Promise<string> {
		return (startWork as (id: I, given: Given<I>) => Promise<string>)(id, this.whole(id, given));
	}

	/** See `sendLeaving`. */
	sendLeaving<I extends JsonId>(id: I, given: Here<I>): void {
		sendLeaving(id, this.whole(id, given));
	}

	/** @throws ApiProblem */
	upload<I extends UploadId>(id: I, given: Here<I>, file: Blob, progress: (share: number) => void): Promise<AnswerOf<I>> {
		return upload(id, this.whole(id, given), file, progress);
	}
}
