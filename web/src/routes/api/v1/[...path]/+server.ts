import type { RequestHandler } from './$types';
import { route } from '$lib/server/api/router';

const handler: RequestHandler = ({ request, params }) => route(request, `/${params.path}`);

export const GET = handler;
export const POST = handler;
export const PUT = handler;
export const PATCH = handler;
export const DELETE = handler;
export const HEAD = handler;
export const OPTIONS = handler;
export const fallback = handler;
