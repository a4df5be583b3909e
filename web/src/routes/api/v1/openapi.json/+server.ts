import type { RequestHandler } from './$types';
import { openApi } from '$lib/server/api/openapi';
import { json } from '$lib/server/api/operation';
import { VERSION } from '$lib/server/version';

export const GET: RequestHandler = () => json(openApi(VERSION));
