import { OPERATIONS } from './register';
import type { Operation } from './operation';

const snake = (id: string): string => id.replace(/[A-Z]/g, (c) => `_${c.toLowerCase()}`);
/** Words that Python keeps for itself. */
const KEPT = new Set([
	'from',
	'class',
	'def',
	'import',
	'as',
	'in',
	'is',
	'not',
	'and',
	'or',
	'if',
	'for',
	'with',
	'del',
	'pass',
	'global',
	'lambda'
]);
const safe = (name: string): string => (KEPT.has(name) ? `${name}_` : name);

/** One method of the client. */
function method(o: Operation): string {
	const path = [...o.path.matchAll(/\{(\w+)\}/g)].map((m) => m[1]!);
	// The project is known by the client; everything else in the path is given.
	const own = path.filter((p) => p !== 'project');
	const extra = [
		...(o.body === 'bytes' ? ['content'] : []),
		...(o.body && o.body !== 'bytes' ? ['body=None'] : []),
		...(o.query || o.ofModel ? ['query=None'] : [])
	];
	const text = o.summary.replaceAll('\\', '\\\\').replaceAll('"""', "'''");
	const address = o.path.replace(/\{(\w+)\}/g, (_, p: string) => (p === 'project' ? '{project}' : `{${p}}`));
	const filled = path.length
		? `.format(${path.map((p) => `${p}=${p === 'project' ? 'self._project()' : `_quoted(${safe(p)})`}`).join(', ')})`
		: '';
	const args = [
		`"${o.method.toUpperCase()}"`,
		`"${address}"${filled}`,
		...(o.body === 'bytes' ? ['content=content'] : o.body ? ['body=body'] : []),
		...(o.query || o.ofModel ? ['query=query'] : [])
	];
	return `    def ${safe(snake(o.id))}(${['self', ...own.map(safe), ...extra].join(', ')}):\n        """${text}."""\n        return self._ask(${args.join(', ')})\n`;
}

const HEAD = `"""Malachite from Python, with nothing but its standard library. Made from the description of the API: do not change it by hand.

    from malachite import Malachite, Problem

    m = Malachite("http://127.0.0.1:5810").open("Isle of Tarrow")
    print(m.rows_of("Levels"))
"""

import array
import json
import struct
import time
import urllib.error
import urllib.parse
import urllib.request


class Problem(Exception):
    """What the server refused, with what can be done."""

    def __init__(self, status, body):
        super().__init__(". ".join(str(body[k]) for k in ("title", "hint") if body.get(k)))
        self.status = status
        self.body = body
        self.kind = body.get("type", "")


def _quoted(value):
    return urllib.parse.quote(str(value), safe="")


def read_pack(content):
    """The JSON of a pack, and its arrays by name."""
    (length,) = struct.unpack_from("<I", content, 0)
    head = json.loads(content[4 : 4 + length].decode("utf-8"))
    start = (4 + length + 7) // 8 * 8
    kinds = {"f64": "d", "f32": "f", "i32": "i", "u32": "I", "i16": "h", "u16": "H", "u8": "B"}
    arrays = {}
    for entry in head["arrays"]:
        values = array.array(kinds[entry["type"]])
        begin = start + entry["offset"]
        values.frombytes(content[begin : begin + entry["length"] * values.itemsize])
        arrays[entry["name"]] = values
    return head["info"], arrays


class Malachite:
    """A server, and the project on it that is worked on."""

    def __init__(self, url="http://127.0.0.1:5810", project=None, timeout=120):
        self.url = url.rstrip("/")
        self.project = project
        self.timeout = timeout

    def _project(self):
        if not self.project:
            raise ValueError("no project is open: open(name) first")
        return self.project

    def _ask(self, method, path, body=None, query=None, content=None):
        address = self.url + "/api/v1" + path
        if query:
            address += "?" + urllib.parse.urlencode({k: json.dumps(v) if isinstance(v, bool) else v for k, v in query.items()})
        headers = {}
        data = None
        if content is not None:
            data, headers["content-type"] = content, "application/octet-stream"
        elif method in ("POST", "PUT", "PATCH"):
            data, headers["content-type"] = json.dumps(body if body is not None else {}).encode("utf-8"), "application/json"
        request = urllib.request.Request(address, data=data, headers=headers, method=method)
        try:
            with urllib.request.urlopen(request, timeout=self.timeout) as answer:
                got = answer.read()
                return json.loads(got) if "json" in (answer.headers.get("content-type") or "") and got else got
        except urllib.error.HTTPError as error:
            got = error.read()
            try:
                told = json.loads(got)
            except ValueError:
                told = {"type": "internal", "title": "the server answered %d" % error.code}
            raise Problem(error.code, told) from None

    # What scripts do most, in a few words.

    def open(self, name):
        """Goes on with a project by its name. Raises LookupError when there is none."""
        for p in self.list_projects()["projects"]:
            if p["name"] == name:
                self.project = p["id"]
                return self
        raise LookupError("there is no project called %r" % name)

    def objects(self):
        """Everything in the project."""
        return self.get_project()["objects"]

    def id_of(self, name):
        """Id of an object by its name; an id is given back. Raises LookupError when there is none."""
        for o in self.objects():
            if name in (o["name"], o["id"]):
                return o["id"]
        raise LookupError("there is nothing called %r" % name)

    def wait(self, job, every=0.2):
        """Waits for a job and gives its outcome. Raises Problem when it failed."""
        while True:
            j = self.get_job(job)
            if j["state"] in ("done", "failed", "cancelled"):
                problem = (j.get("outcome") or {}).get("problem")
                if j["state"] != "done":
                    raise Problem(0, problem or {"type": j["state"], "title": "%s: %s" % (j["title"], j["state"])})
                return j
            time.sleep(every)

    def bring(self, path, name, as_=None, **more):
        """Brings a file in as it is taken to be, or as is said (as_, kind, mapping …), and waits until it is read."""
        with open(path, "rb") as f:
            taken = self.upload_file(f.read(), query={"name": path.replace("\\\\", "/").split("/")[-1]})
        body = {"fileId": taken["file"]["id"], "incomingId": taken["card"], "name": name, "as": as_ or taken["as"]}
        if body["as"] == "table":
            body.update({k: taken[k] for k in ("kind", "mapping", "reading", "units")})
        body.update(more)
        return self.wait(self.import_file(body)["job"])

    def make(self, recipe, name, inputs, **parameters):
        """Makes a result, builds it, and gives what is said of it. inputs are names or ids by role: one, or a list."""
        given = {role: [self.id_of(n) for n in ([own] if isinstance(own, str) else own)] for role, own in inputs.items()}
        made = self.make_result({"recipe": recipe, "name": name, "inputs": given, "parameters": parameters})
        self.wait(self.build({"objects": [made["id"]]})["job"])
        return self.get_result(made["id"])

    def save(self, name, path):
        """Saves a result as a file; its ending says in which format."""
        content = self.export_result(self.id_of(name), path.rsplit(".", 1)[-1])
        with open(path, "wb") as f:
            f.write(content if isinstance(content, bytes) else json.dumps(content).encode("utf-8"))

    def grid(self, name):
        """A grid: x0, y0, dx, dy, nx, ny, and its values row by row from the south-west."""
        info, arrays = read_pack(self.get_object_pack(self.id_of(name)))
        return {**{k: info[k] for k in ("x0", "y0", "dx", "dy", "nx", "ny")}, "values": arrays["values"]}

    def rows_of(self, name):
        """Rows that were made, as a list of dicts, with x, y and z."""
        info, arrays = read_pack(self.get_result_pack(self.id_of(name)))
        columns = {c["key"]: [c["words"][k] for k in arrays["c%d" % i]] if "words" in c else arrays["c%d" % i] for i, c in enumerate(info["columns"])}
        place = {k: arrays[k] for k in ("x", "y", "z")}
        return [{k: v[i] for k, v in {**columns, **place}.items()} for i in range(info["rowCount"])]

    # Every operation of the API. body and query are dicts.

`;

/** The client for Python, one method for each operation of the API. */
export const pythonClient = (): string => HEAD + OPERATIONS.map(method).join('\n');
