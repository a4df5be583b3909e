"""Malachite from Python, with nothing but its standard library. Made from the description of the API: do not change it by hand.

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
            taken = self.upload_file(f.read(), query={"name": path.replace("\\", "/").split("/")[-1]})
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

    def health(self):
        """State of server, database, queue and version, and how late the event loop was since the last call, ms."""
        return self._ask("GET", "/health")

    def build(self, body=None, query=None):
        """Build in the background what is out of date: a model with all upstream of it, or the objects that are named, or everything. Independent ones are built at the same time by as many workers as there are."""
        return self._ask("POST", "/projects/{project}/build".format(project=self._project()), body=body, query=query)

    def list_jobs(self, query=None):
        """Background work, the newest first."""
        return self._ask("GET", "/projects/{project}/jobs".format(project=self._project()), query=query)

    def get_job(self, job):
        """One job."""
        return self._ask("GET", "/projects/{project}/jobs/{job}".format(project=self._project(), job=_quoted(job)))

    def cancel_job(self, job):
        """Stop a job; nothing half-done stays."""
        return self._ask("POST", "/projects/{project}/jobs/{job}/cancel".format(project=self._project(), job=_quoted(job)))

    def get_model(self, query=None):
        """Report of the last built model: volumes, misfits of the surfaces, findings, time."""
        return self._ask("GET", "/projects/{project}/model".format(project=self._project()), query=query)

    def get_holes(self):
        """Hole paths and logged intervals as typed arrays."""
        return self._ask("GET", "/projects/{project}/holes".format(project=self._project()))

    def get_mesh(self, query=None):
        """The triangles of the model as typed arrays; drawn: with places to a thousandth of the spacing, a tenth of the size; of a drawn one at most so many triangles, for a first look, where its info says `light`, or one part of it (see docs/api.md)."""
        return self._ask("GET", "/projects/{project}/mesh".format(project=self._project()), query=query)

    def get_object_pack(self, object, query=None):
        """What an object holds, by its form, in project coordinates: a grid, layer or surface as it was read, or a result as it was built; drawn: as panes draw it (solids and grids), of solids at most so many triangles for a first look, or one part (see docs/api.md)."""
        return self._ask("GET", "/projects/{project}/objects/{object}/pack".format(project=self._project(), object=_quoted(object)), query=query)

    def get_grid_part(self, object, query=None):
        """The cells of a grid within a rectangle, or all of it; where they are more than wanted, means of 2 × 2, 3 × 3, … cells (every). whole: how many cells there are."""
        return self._ask("GET", "/projects/{project}/objects/{object}/part".format(project=self._project(), object=_quoted(object)), query=query)

    def get_picture(self, object):
        """A picture as it was brought in."""
        return self._ask("GET", "/projects/{project}/objects/{object}/picture".format(project=self._project(), object=_quoted(object)))

    def get_terrain(self, query=None):
        """The terrain grid as typed arrays; drawn: with values in 65 535 steps, a third of the size, and in wider cells where they are more than most."""
        return self._ask("GET", "/projects/{project}/terrain".format(project=self._project()), query=query)

    def get_paths(self, query=None):
        """Paths of the holes in use as typed arrays; since: of a state that is known already only what changed."""
        return self._ask("GET", "/projects/{project}/paths".format(project=self._project()), query=query)

    def get_placed_table(self, object, query=None):
        """The rows of a table in use with their places and a typed array for each column; since: of a state that is known already only what changed."""
        return self._ask("GET", "/projects/{project}/tables/{object}/placed".format(project=self._project(), object=_quoted(object)), query=query)

    def get_hole(self, hole):
        """A hole: collar, end, path table with dogleg severity, and how many rows each table has of it."""
        return self._ask("GET", "/projects/{project}/holes/{hole}".format(project=self._project(), hole=_quoted(hole)))

    def list_projects(self, query=None):
        """All projects, or those in the bin, the last worked on first."""
        return self._ask("GET", "/projects", query=query)

    def create_project(self, body=None):
        """Start a project."""
        return self._ask("POST", "/projects", body=body)

    def get_project(self):
        """A project with its objects, their lineage and what is out of date."""
        return self._ask("GET", "/projects/{project}".format(project=self._project()))

    def patch_project(self, body=None):
        """Change name, author, description, coordinate system, unit or extent."""
        return self._ask("PATCH", "/projects/{project}".format(project=self._project()), body=body)

    def delete_project(self, query=None):
        """Put a project into the bin, from where it can be taken back for 30 days; or delete it with everything in it, for good."""
        return self._ask("DELETE", "/projects/{project}".format(project=self._project()), query=query)

    def restore_project(self):
        """Take a project back from the bin."""
        return self._ask("POST", "/projects/{project}/restore".format(project=self._project()))

    def duplicate_project(self):
        """Start another project with all that this one holds."""
        return self._ask("POST", "/projects/{project}/duplicate".format(project=self._project()))

    def get_project_picture(self):
        """A small map of the project: geology at the surface where a model was built, holes, section."""
        return self._ask("GET", "/projects/{project}/picture".format(project=self._project()))

    def start_sample(self):
        """Start a project with the sample data: an island that never was."""
        return self._ask("POST", "/sample")

    def get_sample_files(self):
        """The files of the sample project, to try bringing them in."""
        return self._ask("GET", "/sample")

    def propose_extent(self, query=None):
        """An extent from the terrain or from the collars."""
        return self._ask("GET", "/projects/{project}/extent-proposal".format(project=self._project()), query=query)

    def list_changes(self, query=None):
        """What was changed, as far back as it can be undone."""
        return self._ask("GET", "/projects/{project}/changes".format(project=self._project()), query=query)

    def undo(self, body=None):
        """Undo the last change, by its number; one that was made in another browser only with `others`."""
        return self._ask("POST", "/projects/{project}/undo".format(project=self._project()), body=body)

    def redo(self, body=None):
        """Do the last undone change again, by its number."""
        return self._ask("POST", "/projects/{project}/redo".format(project=self._project()), body=body)

    def find_coordinate_systems(self, query=None):
        """Coordinate systems by the beginning of their EPSG code, or by words of their name or of the area where they are used."""
        return self._ask("GET", "/crs", query=query)

    def coordinate_system(self, code):
        """A coordinate system by its EPSG code."""
        return self._ask("GET", "/crs/{code}".format(code=_quoted(code)))

    def list_kinds(self):
        """Kinds of table and the roles that their columns can take."""
        return self._ask("GET", "/table-kinds")

    def upload_file(self, content, query=None):
        """Store a raw file (up to 256 MiB) and see what it is taken to be; it waits until it is brought in or put aside."""
        return self._ask("POST", "/projects/{project}/files".format(project=self._project()), content=content, query=query)

    def download_file(self, file):
        """A raw file as it came, byte for byte."""
        return self._ask("GET", "/projects/{project}/files/{file}".format(project=self._project(), file=_quoted(file)))

    def preview_file(self, file, body=None):
        """The first rows of a stored file as another thing, under another kind or other roles."""
        return self._ask("POST", "/projects/{project}/files/{file}/preview".format(project=self._project(), file=_quoted(file)), body=body)

    def list_incoming(self):
        """Files that wait to be brought in, with what was said of each."""
        return self._ask("GET", "/projects/{project}/incoming".format(project=self._project()))

    def add_incoming(self, body=None):
        """Let another table of a stored file wait, too."""
        return self._ask("POST", "/projects/{project}/incoming".format(project=self._project()), body=body)

    def change_incoming(self, card, body=None):
        """Keep what is said of a file that waits."""
        return self._ask("PATCH", "/projects/{project}/incoming/{card}".format(project=self._project(), card=_quoted(card)), body=body)

    def remove_incoming(self, card):
        """Put a file that waits aside."""
        return self._ask("DELETE", "/projects/{project}/incoming/{card}".format(project=self._project(), card=_quoted(card)))

    def import_file(self, body=None):
        """Bring a stored file in as a table or as terrain, in the background."""
        return self._ask("POST", "/projects/{project}/imports".format(project=self._project()), body=body)

    def save_source(self, object, format):
        """A source with its edits as a file: tables as csv, xlsx, las (readings), ags (collars and logs), or with the places of their rows as placed (CSV), gpkg, geojson, zip, dxf; rasters as tif, asc; layers as gpkg, geojson, zip (shapefiles), dxf; surfaces as obj, stl, ply, glb."""
        return self._ask("GET", "/projects/{project}/sources/{object}/file.{format}".format(project=self._project(), object=_quoted(object), format=_quoted(format)))

    def rename_source(self, object, body=None):
        """Give a source another name."""
        return self._ask("PATCH", "/projects/{project}/sources/{object}".format(project=self._project(), object=_quoted(object)), body=body)

    def delete_source(self, object):
        """Take a table or a terrain out of the project; this can be undone."""
        return self._ask("DELETE", "/projects/{project}/sources/{object}".format(project=self._project(), object=_quoted(object)))

    def delete_sources(self, body=None):
        """Take several sources out of the project as one change, all or none; this can be undone."""
        return self._ask("POST", "/projects/{project}/sources/take-out".format(project=self._project()), body=body)

    def list_rows(self, object, query=None):
        """Rows of a table with their findings and edits."""
        return self._ask("GET", "/projects/{project}/tables/{object}/rows".format(project=self._project(), object=_quoted(object)), query=query)

    def edit_row(self, object, n, body=None):
        """Edit one cell of a row, or exclude the row; the original stays."""
        return self._ask("PATCH", "/projects/{project}/tables/{object}/rows/{n}".format(project=self._project(), object=_quoted(object), n=_quoted(n)), body=body)

    def edit_cells(self, object, body=None):
        """Edit many cells as one change, as by pasting."""
        return self._ask("POST", "/projects/{project}/tables/{object}/cells".format(project=self._project(), object=_quoted(object)), body=body)

    def compare_version(self, object, body=None):
        """What a newer version of the file changes, and which edits it conflicts with."""
        return self._ask("POST", "/projects/{project}/tables/{object}/reload/preview".format(project=self._project(), object=_quoted(object)), body=body)

    def reload_table(self, object, body=None):
        """Read a table from a newer version of its file; edits stay where the file did not change."""
        return self._ask("POST", "/projects/{project}/tables/{object}/reload".format(project=self._project(), object=_quoted(object)), body=body)

    def append_table(self, object, body=None):
        """Add the rows of another file with the same columns."""
        return self._ask("POST", "/projects/{project}/tables/{object}/append".format(project=self._project(), object=_quoted(object)), body=body)

    def preview_mend(self, object, body=None):
        """What a mend of the findings of a rule would change."""
        return self._ask("POST", "/projects/{project}/tables/{object}/mends/preview".format(project=self._project(), object=_quoted(object)), body=body)

    def mend(self, object, body=None):
        """Mend the findings of a rule: swap, extend the hole, take the proposal, exclude, or set a value; for some rows or for all."""
        return self._ask("POST", "/projects/{project}/tables/{object}/mends".format(project=self._project(), object=_quoted(object)), body=body)

    def exclude_hole(self, hole, body=None):
        """Leave a hole out of one table or of all, or take it back in."""
        return self._ask("POST", "/projects/{project}/holes/{hole}/exclude".format(project=self._project(), hole=_quoted(hole)), body=body)

    def column_statistics(self, object, query=None):
        """Statistics of one column, of all rows in use or of those that a filter chooses."""
        return self._ask("GET", "/projects/{project}/tables/{object}/statistics".format(project=self._project(), object=_quoted(object)), query=query)

    def preview_calculated(self, object, body=None):
        """What the last of some calculated columns would hold."""
        return self._ask("POST", "/projects/{project}/tables/{object}/calculated/preview".format(project=self._project(), object=_quoted(object)), body=body)

    def set_calculated(self, object, body=None):
        """The calculated columns of a table: names and expressions (see docs/expressions.md)."""
        return self._ask("PUT", "/projects/{project}/tables/{object}/calculated".format(project=self._project(), object=_quoted(object)), body=body)

    def change_reading(self, object, body=None):
        """Read the columns of a table otherwise (roles, units, value rules), with no new upload."""
        return self._ask("PUT", "/projects/{project}/tables/{object}/mapping".format(project=self._project(), object=_quoted(object)), body=body)

    def table_summary(self, object):
        """Rows, holes, depth range, missing cells, histogram of each numeric column, counts of each code, classes of measured values."""
        return self._ask("GET", "/projects/{project}/tables/{object}/summary".format(project=self._project(), object=_quoted(object)))

    def list_rules(self):
        """The rules of the checks with what the project has changed in them."""
        return self._ask("GET", "/projects/{project}/rules".format(project=self._project()))

    def set_rules(self, body=None):
        """Change severity or bounds of rules, or silence them with a reason."""
        return self._ask("PUT", "/projects/{project}/rules".format(project=self._project()), body=body)

    def preview_rules(self, body=None):
        """How many rows would be held back, and how much would be noted, under other settings of the rules."""
        return self._ask("POST", "/projects/{project}/rules/preview".format(project=self._project()), body=body)

    def list_findings(self, query=None):
        """Everything that the checks found."""
        return self._ask("GET", "/projects/{project}/findings".format(project=self._project()), query=query)

    def check_now(self):
        """Run all rules over all tables."""
        return self._ask("POST", "/projects/{project}/check".format(project=self._project()))

    def mark_seen(self, body=None):
        """Say that findings were seen and are left as they are, with a reason; or take that back."""
        return self._ask("POST", "/projects/{project}/findings/seen".format(project=self._project()), body=body)

    def export_findings(self, format, query=None):
        """Findings as CSV or XLSX, of one table or all, with file and line, to be mended at the source."""
        return self._ask("GET", "/projects/{project}/exports/findings.{format}".format(project=self._project(), format=_quoted(format)), query=query)

    def search_catalogue(self, query=None):
        """What the regional catalogue has for an area; the extent of the project when none is given."""
        return self._ask("GET", "/projects/{project}/catalogue".format(project=self._project()), query=query)

    def catalogue_picture(self, record):
        """A small picture of a record of the regional catalogue."""
        return self._ask("GET", "/catalogue/{record}/picture".format(record=_quoted(record)))

    def fetch_from_catalogue(self, record, body=None):
        """Download a record of the regional catalogue, clipped to an area, and bring it in; in the background."""
        return self._ask("POST", "/projects/{project}/catalogue/{record}".format(project=self._project(), record=_quoted(record)), body=body)

    def new_log(self, body=None):
        """Make a version of a log: its rows are those of the table or version that it goes out from, which is never touched; codes can be taken for others at once."""
        return self._ask("POST", "/projects/{project}/logs".format(project=self._project()), body=body)

    def set_recode(self, object, body=None):
        """Which codes a version of a log takes for others, before any interval of it is relogged."""
        return self._ask("PUT", "/projects/{project}/logs/{object}/recode".format(project=self._project(), object=_quoted(object)), body=body)

    def list_log_codes(self, object, query=None):
        """The codes of a log: how often, how long, in how many holes, between which depths, and what loggers said of them."""
        return self._ask("GET", "/projects/{project}/logs/{object}/codes".format(project=self._project(), object=_quoted(object)), query=query)

    def propose_code_groups(self, object, query=None):
        """Units for codes of a log that have none, by their spelling, by what loggers said, and by what they lie between."""
        return self._ask("GET", "/projects/{project}/logs/{object}/groups".format(project=self._project(), object=_quoted(object)), query=query)

    def compare_logs(self, object, query=None):
        """Where two logs of the same holes say something else, by unit or by code."""
        return self._ask("GET", "/projects/{project}/logs/{object}/differences".format(project=self._project(), object=_quoted(object)), query=query)

    def get_column_evidence(self, query=None):
        """What the holes say of the order of the column, of its neighbours one by one, and the order and kinds of contact that most of them have."""
        return self._ask("GET", "/projects/{project}/column/evidence".format(project=self._project()), query=query)

    def pick_intervals(self, object, body=None, query=None):
        """Intervals of a log that a rule picks: thin ones, those beside a unit, in a range of depth, of some codes, within a body, or by an expression."""
        return self._ask("POST", "/projects/{project}/logs/{object}/pick".format(project=self._project(), object=_quoted(object)), body=body, query=query)

    def preview_relog(self, object, body=None, query=None):
        """What an act of relogging would change."""
        return self._ask("POST", "/projects/{project}/logs/{object}/relog/preview".format(project=self._project(), object=_quoted(object)), body=body, query=query)

    def relog(self, object, body=None, query=None):
        """Relog a version: give intervals or stretches a code (an empty one is "not sampled"), move a boundary, split an interval, dissolve intervals into their neighbours; one act is one change."""
        return self._ask("POST", "/projects/{project}/logs/{object}/relog".format(project=self._project(), object=_quoted(object)), body=body, query=query)

    def list_relogged(self, object, query=None):
        """The intervals that were changed in a version of a log, with what stood there before, by whom and when."""
        return self._ask("GET", "/projects/{project}/logs/{object}/changes".format(project=self._project(), object=_quoted(object)), query=query)

    def restore_intervals(self, object, body=None):
        """Take the relogging of some intervals back, or of all: codes as they were, and boundaries with those of the neighbours that moved with them; or let go edits whose interval is not there any more."""
        return self._ask("POST", "/projects/{project}/logs/{object}/restore".format(project=self._project(), object=_quoted(object)), body=body)

    def list_schemes(self):
        """Schemes of ranks with their units, ages, and what contradicts itself in them."""
        return self._ask("GET", "/projects/{project}/schemes".format(project=self._project()))

    def set_schemes(self, body=None):
        """Replace the schemes; a unit can not be a part of itself, or of one of no higher rank."""
        return self._ask("PUT", "/projects/{project}/schemes".format(project=self._project()), body=body)

    def read_scheme(self, body=None):
        """Read a scheme from the text of a table (one row a unit with its parent, or one column a rank), or from columns of a log, the highest rank first; nothing is stored."""
        return self._ask("POST", "/projects/{project}/schemes/read".format(project=self._project()), body=body)

    def new_rank_log(self, object, body=None, query=None):
        """Make a version of a log at a rank of a scheme: each code becomes the unit of that rank that it is a part of."""
        return self._ask("POST", "/projects/{project}/logs/{object}/at-rank".format(project=self._project(), object=_quoted(object)), body=body, query=query)

    def new_age_log(self, object, body=None, query=None):
        """Make a version of a log in units of time: what is dated becomes the unit of a rank of a scheme that its age lies in."""
        return self._ask("POST", "/projects/{project}/logs/{object}/by-age".format(project=self._project(), object=_quoted(object)), body=body, query=query)

    def list_ties(self):
        """Ties between holes, and which of them cross each other."""
        return self._ask("GET", "/projects/{project}/ties".format(project=self._project()))

    def set_ties(self, body=None):
        """Replace the ties; two that are certain can not cross each other."""
        return self._ask("PUT", "/projects/{project}/ties".format(project=self._project()), body=body)

    def get_unit_in_holes(self, query=None):
        """A unit of a scheme at any rank, or of the column, in every hole: thickness, depth of its top, what it is made of; or why it is not there."""
        return self._ask("GET", "/projects/{project}/units-in-holes".format(project=self._project()), query=query)

    def set_absences(self, body=None):
        """Why units are not in holes, where somebody sets right what is told from the logs; each with a reason."""
        return self._ask("PUT", "/projects/{project}/absences".format(project=self._project()), body=body)

    def propose_ties(self, body=None, query=None):
        """Ties between each hole of a row and the next: boundaries of the same units, or by the likeness of a curve."""
        return self._ask("POST", "/projects/{project}/ties/propose".format(project=self._project()), body=body, query=query)

    def get_ages(self, body=None, query=None):
        """Age–depth curves of holes: from boundaries with ages in a scheme, dated samples and zones, in order down the hole."""
        return self._ask("POST", "/projects/{project}/ages".format(project=self._project()), body=body, query=query)

    def get_interpretation(self, query=None):
        """Codes, units, column, faults, section line and spacing."""
        return self._ask("GET", "/projects/{project}/interpretation".format(project=self._project()), query=query)

    def get_first_steps(self, query=None):
        """What a project still needs before a model can be built, proposed from its data: units for codes without one and their order with the holes that say so, extent, spacing, a first section."""
        return self._ask("GET", "/projects/{project}/first-steps".format(project=self._project()), query=query)

    def take_first_steps(self, body=None, query=None):
        """Take over some of what is proposed, as one change."""
        return self._ask("POST", "/projects/{project}/first-steps".format(project=self._project()), body=body, query=query)

    def set_column(self, body=None, query=None):
        """Units in age order, youngest first, with contact kinds and colours."""
        return self._ask("PUT", "/projects/{project}/column".format(project=self._project()), body=body, query=query)

    def set_lumping(self, body=None, query=None):
        """Which unit each code is taken to be."""
        return self._ask("PUT", "/projects/{project}/lumping".format(project=self._project()), body=body, query=query)

    def set_faults(self, body=None, query=None):
        """The faults: traces on the map, dips, what they cut; or the model whose faults they are, as they are there from then on."""
        return self._ask("PUT", "/projects/{project}/faults".format(project=self._project()), body=body, query=query)

    def set_shaping(self, body=None, query=None):
        """What shapes the model beside holes, column and faults: lines and layers, data sets, trends, limits, given bases, divisions of units. What is not given stays."""
        return self._ask("PUT", "/projects/{project}/shaping".format(project=self._project()), body=body, query=query)

    def list_intercepts(self, query=None):
        """Where holes cross each intrusion that may be a sheet, how far each crossing is off its neighbours, and which of a hole is the nearest to them."""
        return self._ask("GET", "/projects/{project}/intercepts".format(project=self._project()), query=query)

    def set_section(self, body=None, query=None):
        """The line of the main section, and the width of its corridor."""
        return self._ask("PUT", "/projects/{project}/section".format(project=self._project()), body=body, query=query)

    def set_spacing(self, body=None, query=None):
        """The wanted edge length of the model’s triangles, the volume below which loose parts are dropped, and where the model is to be finer."""
        return self._ask("PUT", "/projects/{project}/spacing".format(project=self._project()), body=body, query=query)

    def estimate_build(self, query=None):
        """Cells and memory that a spacing needs."""
        return self._ask("GET", "/projects/{project}/estimate".format(project=self._project()), query=query)

    def list_sections(self):
        """The sections beside the main one, which stands in the interpretation."""
        return self._ask("GET", "/projects/{project}/sections".format(project=self._project()))

    def add_sections(self, body=None):
        """Add sections as one change: each with a line, and a corridor, an exaggeration and a set of its own if it is to have them."""
        return self._ask("POST", "/projects/{project}/sections".format(project=self._project()), body=body)

    def change_sections(self, body=None):
        """Change sections as one change; what is left out stays, null takes away what a section has of its own."""
        return self._ask("PATCH", "/projects/{project}/sections".format(project=self._project()), body=body)

    def remove_sections(self, body=None):
        """Take sections out as one change, all or none, which can be undone; the main one stays."""
        return self._ask("POST", "/projects/{project}/sections/take-out".format(project=self._project()), body=body)

    def list_models(self):
        """The models of a project in their order, each with its units and state."""
        return self._ask("GET", "/projects/{project}/models".format(project=self._project()))

    def add_model(self, body=None):
        """Start another model: an empty one, or a copy of one with all that it is made of."""
        return self._ask("POST", "/projects/{project}/models".format(project=self._project()), body=body)

    def change_model(self, object, body=None):
        """Change the name of a model, or whether it is built by itself whenever it is out of date; what is left out stays."""
        return self._ask("PATCH", "/projects/{project}/models/{object}".format(project=self._project(), object=_quoted(object)), body=body)

    def order_models(self, body=None):
        """Put the models into an order; the first one is what is meant where no model is said."""
        return self._ask("PUT", "/projects/{project}/models/order".format(project=self._project()), body=body)

    def remove_model(self, object):
        """Take a model with all its parts out of the project; this can be undone."""
        return self._ask("DELETE", "/projects/{project}/models/{object}".format(project=self._project(), object=_quoted(object)))

    def list_recipes(self):
        """All recipes: what each is made of, its parameters with units and bounds, and the form of what comes out."""
        return self._ask("GET", "/recipes")

    def list_results(self, query=None):
        """Results that people made: recipe, parameters, inputs, state, time, size and what is said of each."""
        return self._ask("GET", "/projects/{project}/results".format(project=self._project()), query=query)

    def suggest_result(self, body=None):
        """A name and first parameters for a recipe and what it is to be made of."""
        return self._ask("POST", "/projects/{project}/suggestions".format(project=self._project()), body=body)

    def preview_result(self, body=None):
        """A first look at what a recipe would make; grids have a quarter of their cells or fewer. Nothing is stored."""
        return self._ask("POST", "/projects/{project}/previews".format(project=self._project()), body=body)

    def estimate_result(self, body=None):
        """Memory that a recipe will need."""
        return self._ask("POST", "/projects/{project}/needs".format(project=self._project()), body=body)

    def make_result(self, body=None):
        """Make a named result by a recipe; it is built by POST …/build."""
        return self._ask("POST", "/projects/{project}/results".format(project=self._project()), body=body)

    def get_result(self, object):
        """One result with its report."""
        return self._ask("GET", "/projects/{project}/results/{object}".format(project=self._project(), object=_quoted(object)))

    def get_account(self, object):
        """How a result was made, from the files on, step by step, in words that can go into a report."""
        return self._ask("GET", "/projects/{project}/results/{object}/account".format(project=self._project(), object=_quoted(object)))

    def change_result(self, object, body=None):
        """Change name, parameters, inputs of a result, or whether it is built by itself; what is left out stays."""
        return self._ask("PATCH", "/projects/{project}/results/{object}".format(project=self._project(), object=_quoted(object)), body=body)

    def duplicate_result(self, object):
        """The same once more under another name."""
        return self._ask("POST", "/projects/{project}/results/{object}/duplicate".format(project=self._project(), object=_quoted(object)))

    def remove_result(self, object, query=None):
        """Take a result out of the project; one that others are made of only with `used`. This can be undone."""
        return self._ask("DELETE", "/projects/{project}/results/{object}".format(project=self._project(), object=_quoted(object)), query=query)

    def get_result_pack(self, object, query=None):
        """What a result holds, as typed arrays by its form; all of them, or those that are named (`arrays`, with commas between them)."""
        return self._ask("GET", "/projects/{project}/results/{object}/pack".format(project=self._project(), object=_quoted(object)), query=query)

    def export_result(self, object, format):
        """A result as a file, by its form: grids as tif or asc, faces as geojson, solids as obj, stl, glb, vtp, blocks as vti; what is said of any as json or csv."""
        return self._ask("GET", "/projects/{project}/results/{object}/file.{format}".format(project=self._project(), object=_quoted(object), format=_quoted(format)))

    def get_store(self):
        """How much a project takes up in the store, and what of it nothing refers to any more."""
        return self._ask("GET", "/projects/{project}/store".format(project=self._project()))

    def get_derived(self, recipe, query=None):
        """What a quick recipe makes of objects as they stand built (geology at the surface, thickness of a unit, what changed between two models), without a result of its own."""
        return self._ask("GET", "/projects/{project}/derived/{recipe}".format(project=self._project(), recipe=_quoted(recipe)), query=query)

    def export_derived(self, recipe, format, query=None):
        """The same as a file, by the form of the recipe: grids as tif or asc, faces as geojson; what is said of it as json or csv."""
        return self._ask("GET", "/projects/{project}/derived/{recipe}/file.{format}".format(project=self._project(), recipe=_quoted(recipe), format=_quoted(format)), query=query)

    def propose_routine(self, body=None):
        """The chain of recipes that leads to some results, as a routine: what was brought in becomes its open inputs."""
        return self._ask("POST", "/projects/{project}/routine-proposals".format(project=self._project()), body=body)

    def run_routine(self, body=None):
        """Run a routine on objects of a project: its steps become results, in one change; they are built by POST …/build."""
        return self._ask("POST", "/projects/{project}/routine-runs".format(project=self._project()), body=body)

    def list_kept_models(self):
        """Models that were kept, with the spacing and the volumes of each."""
        return self._ask("GET", "/projects/{project}/kept-models".format(project=self._project()))

    def keep_model(self, body=None, query=None):
        """Keep the model as it is built now, with its interpretation, under a name."""
        return self._ask("POST", "/projects/{project}/kept-models".format(project=self._project()), body=body, query=query)

    def take_up_model(self, kept, query=None):
        """Go on from a kept model: column, codes, faults, shape, spacing and extent become what they were; one change that can be undone."""
        return self._ask("POST", "/projects/{project}/kept-models/{kept}/take-up".format(project=self._project(), kept=_quoted(kept)), query=query)

    def remove_kept_model(self, kept):
        """Remove a kept model; this can be undone."""
        return self._ask("DELETE", "/projects/{project}/kept-models/{kept}".format(project=self._project(), kept=_quoted(kept)))

    def get_workbench(self):
        """How the workbench of the project looks: panes, styles, filters; for a browser that names itself as it was left there."""
        return self._ask("GET", "/projects/{project}/workbench".format(project=self._project()))

    def set_workbench(self, body=None):
        """Set how the workbench looks, in every browser."""
        return self._ask("PUT", "/projects/{project}/workbench".format(project=self._project()), body=body)

    def change_workbench(self, body=None):
        """Keep what one browser changed of how the workbench looks: of maps (panes, styles, hidden, opacity) the entries, null for one that went."""
        return self._ask("PATCH", "/projects/{project}/workbench".format(project=self._project()), body=body)

    def list_viewpoints(self):
        """Viewpoints: states of the workbench under a name."""
        return self._ask("GET", "/projects/{project}/viewpoints".format(project=self._project()))

    def get_viewpoint(self, viewpoint):
        """One viewpoint with its state."""
        return self._ask("GET", "/projects/{project}/viewpoints/{viewpoint}".format(project=self._project(), viewpoint=_quoted(viewpoint)))

    def add_viewpoint(self, body=None):
        """Keep a state of the workbench under a name."""
        return self._ask("POST", "/projects/{project}/viewpoints".format(project=self._project()), body=body)

    def rename_viewpoint(self, viewpoint, body=None):
        """Rename a viewpoint."""
        return self._ask("PATCH", "/projects/{project}/viewpoints/{viewpoint}".format(project=self._project(), viewpoint=_quoted(viewpoint)), body=body)

    def delete_viewpoint(self, viewpoint):
        """Remove a viewpoint; this can be undone."""
        return self._ask("DELETE", "/projects/{project}/viewpoints/{viewpoint}".format(project=self._project(), viewpoint=_quoted(viewpoint)))

    def export_section(self, format, query=None):
        """A section as SVG, PNG or DXF."""
        return self._ask("GET", "/projects/{project}/exports/section.{format}".format(project=self._project(), format=_quoted(format)), query=query)

    def export_meshes(self, what, format, query=None):
        """Volumes or surfaces as OBJ, STL, glTF (glb) or VTK XML (vtp); volumes also as a table (csv); geology as geojson."""
        return self._ask("GET", "/projects/{project}/exports/{what}.{format}".format(project=self._project(), what=_quoted(what), format=_quoted(format)), query=query)

    def export_log(self, format, body=None):
        """Logs of holes at a true scale as PDF or SVG, over as many pages as they need."""
        return self._ask("POST", "/projects/{project}/exports/log.{format}".format(project=self._project(), format=_quoted(format)), body=body)

    def export_correlation(self, format, body=None, query=None):
        """A correlation at a true scale on one sheet, as PDF or SVG."""
        return self._ask("POST", "/projects/{project}/exports/correlation.{format}".format(project=self._project(), format=_quoted(format)), body=body, query=query)

    def export_archive(self):
        """The project file with its data as one ZIP archive, for the command line and other servers."""
        return self._ask("GET", "/projects/{project}/archive".format(project=self._project()))

    def import_archive(self, content):
        """Start a project from an archive."""
        return self._ask("POST", "/archives", content=content)
