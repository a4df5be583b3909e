ALTER TABLE "object_input" DROP CONSTRAINT "object_input_object_id_input_id_pk";--> statement-breakpoint
ALTER TABLE "object_input" ADD COLUMN "role" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "object_input" ADD CONSTRAINT "object_input_object_id_input_id_role_pk" PRIMARY KEY("object_id","input_id","role");--> statement-breakpoint
ALTER TABLE "result" ADD COLUMN "sha256" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "job" ADD COLUMN "after" uuid[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "job" ADD COLUMN "object_id" uuid;--> statement-breakpoint
ALTER TABLE "object" ADD COLUMN "model_id" uuid;--> statement-breakpoint
ALTER TABLE "object" ADD COLUMN "auto" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "object" ADD COLUMN "failure" jsonb;--> statement-breakpoint
ALTER TABLE "object" ADD COLUMN "created_by" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "object" ADD COLUMN "position" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE INDEX "object_model" ON "object" USING btree ("model_id");--> statement-breakpoint
-- A project had one model: its parts are those of that one.
UPDATE "object" o SET "model_id" = m."id" FROM "object" m
WHERE m."kind" = 'model' AND m."project_id" = o."project_id" AND o."kind" IN ('column', 'lumping', 'faults', 'shaping', 'contacts', 'fields', 'model');--> statement-breakpoint
-- Kept models become objects, under the ids that the changes know them by.
INSERT INTO "object" ("id", "project_id", "kind", "name", "content_hash", "state", "created_by", "removed_at", "created_at", "updated_at")
SELECT "id", "project_id", 'kept-model', "name", "result_key", jsonb_build_object('parts', "parts"), "created_by", "removed_at", "created_at", "created_at" FROM "kept_model";--> statement-breakpoint
-- The last ensemble of a project becomes an object, too.
INSERT INTO "object" ("project_id", "kind", "name", "content_hash", "state", "created_at", "updated_at")
SELECT DISTINCT ON (r."project_id") r."project_id", 'doubt', 'Doubt of the model', r."key",
	jsonb_build_object('members', r."report"->'members', 'spacing', r."report"->'spacing', 'seed', r."report"->'seed') || (r."report"->'errors'),
	r."created_at", r."created_at"
FROM "result" r WHERE r."kind" = 'doubt' AND r."report" ? 'members' AND jsonb_typeof(r."report"->'errors') = 'object' ORDER BY r."project_id", r."created_at" DESC;--> statement-breakpoint
INSERT INTO "object_input" ("object_id", "input_id", "role")
SELECT d."id", f."id", CASE f."kind" WHEN 'fields' THEN 'fields' ELSE 'terrain' END
FROM "object" d JOIN "object" f ON f."project_id" = d."project_id" AND f."kind" IN ('fields', 'terrain') AND f."removed_at" IS NULL
WHERE d."kind" = 'doubt' AND (f."kind" = 'fields' OR f."id" = (SELECT t."id" FROM "object" t WHERE t."project_id" = d."project_id" AND t."kind" = 'terrain' AND t."removed_at" IS NULL ORDER BY t."created_at", t."id" LIMIT 1));--> statement-breakpoint
DROP TABLE "kept_model" CASCADE;
