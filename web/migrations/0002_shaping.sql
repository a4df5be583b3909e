INSERT INTO "object" ("project_id", "kind", "name", "state", "content_hash")
SELECT p."id", 'shaping', 'Shape of the ground', '{"log":null,"dataSets":[],"lines":[],"trends":[],"limits":[],"made":[],"divisions":[]}'::jsonb, 'shaping of a project from before'
FROM "project" p WHERE NOT EXISTS (SELECT 1 FROM "object" o WHERE o."project_id" = p."id" AND o."kind" = 'shaping');
--> statement-breakpoint
INSERT INTO "object_input" ("object_id", "input_id")
SELECT t."id", s."id" FROM "object" t JOIN "object" s ON s."project_id" = t."project_id" AND s."kind" = 'shaping'
WHERE t."kind" IN ('contacts', 'fields') AND NOT EXISTS (SELECT 1 FROM "object_input" i WHERE i."object_id" = t."id" AND i."input_id" = s."id");
