-- The lines of a section become sections of their own, each an object, in their order.
CREATE TEMPORARY TABLE "section_line" ON COMMIT DROP AS
SELECT gen_random_uuid() AS "id", o."id" AS "main", o."project_id", o."created_by", l."line", l."n"::int
FROM "object" o, jsonb_array_elements(CASE jsonb_typeof(o."state"->'lines') WHEN 'array' THEN o."state"->'lines' ELSE '[]'::jsonb END) WITH ORDINALITY AS l("line", "n")
WHERE o."kind" = 'section' AND jsonb_typeof(l."line") = 'object';--> statement-breakpoint
INSERT INTO "object" ("id", "project_id", "kind", "name", "state", "created_by", "position")
SELECT "id", "project_id", 'section', coalesce("line"->>'name', 'Section'), "line" - 'name', "created_by", "n" FROM "section_line";--> statement-breakpoint
INSERT INTO "object_input" ("object_id", "input_id", "role")
SELECT l."id", i."input_id", i."role" FROM "section_line" l JOIN "object_input" i ON i."object_id" = l."main";--> statement-breakpoint
UPDATE "object" SET "name" = 'A' WHERE "kind" = 'section' AND "name" = 'Section A–A′';--> statement-breakpoint
UPDATE "object" SET "state" = "state" - 'lines' WHERE "kind" = 'section' AND "state" ? 'lines';--> statement-breakpoint
-- What was done to the lines can be undone where they were only added: then they are taken out again. All else of these changes stays as it was.
UPDATE "change" c SET "steps" = (
	SELECT jsonb_agg(s."step" ORDER BY s."n", s."part") FROM (
		SELECT e."n", 0::bigint AS "part", CASE WHEN e."step"->>'kind' = 'state' AND (e."step"->'before' ? 'lines' OR e."step"->'after' ? 'lines')
			THEN jsonb_set(jsonb_set(e."step", '{before}', (e."step"->'before') - 'lines'), '{after}', (e."step"->'after') - 'lines') ELSE e."step" END AS "step"
		FROM jsonb_array_elements(c."steps") WITH ORDINALITY AS e("step", "n")
		UNION ALL
		SELECT e."n", l."n", jsonb_build_object('kind', 'removed', 'what', 'object', 'id', l."id", 'after', false)
		FROM jsonb_array_elements(c."steps") WITH ORDINALITY AS e("step", "n")
		JOIN "section_line" l ON l."main"::text = e."step"->>'object'
		WHERE e."step"->>'kind' = 'state' AND NOT c."undone"
			AND jsonb_array_length(coalesce(e."step"->'after'->'lines', '[]')) >= l."n" AND (e."step"->'after'->'lines')->(l."n" - 1) = l."line"
			AND jsonb_array_length(coalesce(e."step"->'before'->'lines', '[]')) < l."n"
	) s
)
WHERE EXISTS (
	SELECT 1 FROM jsonb_array_elements(c."steps") AS e("step") JOIN "object" o ON o."id"::text = e."step"->>'object' AND o."kind" = 'section'
	WHERE e."step"->>'kind' = 'state' AND (e."step"->'before' ? 'lines' OR e."step"->'after' ? 'lines')
);
