import type { TriangleMesh } from '#core/mesh/extract';
import { sineOfLeast } from '#core/mesh/least-angle';
import type { MendPart } from '#core/mesh/mend-slim';

/** Shares of triangles with a least angle below 10° and 1°. */
export function slimShares({ positions, triangles }: TriangleMesh): [number, number] {
	const least = Array.from({ length: triangles.length / 3 }, (_, t) =>
		sineOfLeast(positions, triangles[3 * t]!, triangles[3 * t + 1]!, triangles[3 * t + 2]!)
	);
	return [10, 1].map((d) => least.filter((s) => s < Math.sin((d * Math.PI) / 180)).length / least.length) as [number, number];
}

/** Leaves a mesh as it was cut. */
export const asCut: MendPart = ({ mend }) => ({ gained: new Float64Array(mend.given.length) });
