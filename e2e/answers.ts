import { Ajv2020, type ValidateFunction } from 'ajv/dist/2020.js';
import formats from 'ajv-formats';

interface Described {
	responses: Record<string, { content?: Record<string, { schema: object }> }>;
}

/** Guards of one version of the API, made once in a process. */
const known = new Map<string, Promise<Guard>>();

/** Looks at an answer; what is not as the description of the API says is an error. */
export type Guard = (method: string, path: string, status: number, body: unknown) => void;

async function readGuard(url: string): Promise<Guard> {
	const page = (await (await fetch(`${url}/api/v1/openapi.json`)).json()) as {
		paths: Record<string, Record<string, Described>>;
		components: { schemas: { Problem: object } };
	};
	const ajv = new Ajv2020({ strict: false, allErrors: true });
	formats.default(ajv);
	const operations = Object.entries(page.paths).flatMap(([path, methods]) =>
		Object.entries(methods).map(([method, described]) => ({
			path,
			method: method.toUpperCase(),
			pattern: new RegExp(`^${path.replaceAll('.', '\\.').replace(/\{\w+\}/g, '[^/]+')}$`),
			described
		}))
	);
	const compiled = new Map<object, ValidateFunction>();
	const holds = (schema: object, value: unknown, what: string) => {
		let check = compiled.get(schema);
		if (!check) compiled.set(schema, (check = ajv.compile(schema)));
		if (check(value)) return;
		const wrong = check.errors!.slice(0, 5).map((e) => `${e.instancePath || 'it'} ${e.message} ${JSON.stringify(e.params)}`);
		throw new Error(`${what} is not answered as the API is described: ${wrong.join('; ')}`);
	};
	return (method, path, status, body) => {
		const plain = path.split('?')[0]!;
		// The first that fits is the one that the router takes.
		const own = operations.find((o) => o.method === method && o.pattern.test(plain));
		const what = `${method} ${plain}`;
		if (status >= 400) {
			// The health of the server tells what is down with the status of a problem.
			if (plain !== '/health') holds(page.components.schemas.Problem, body, `a problem of ${what}`);
			return;
		}
		if (!own) return;
		const described = own.described.responses[String(status)]?.content?.['application/json'];
		if (!described) throw new Error(`${what} answers ${status}, which its description does not know`);
		holds(described.schema, body, what);
	};
}

/** The guard of the answers of a server. */
export function guardOf(url: string): Promise<Guard> {
	let guard = known.get(url);
	if (!guard) known.set(url, (guard = readGuard(url)));
	return guard;
}
