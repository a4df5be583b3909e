ALTER TABLE "kept_model" DROP CONSTRAINT "kept_model_name";--> statement-breakpoint
ALTER TABLE "viewpoint" DROP CONSTRAINT "viewpoint_name";--> statement-breakpoint
ALTER TABLE "cell_edit" DROP CONSTRAINT "cell_edit_object_id_n_position_pk";--> statement-breakpoint
ALTER TABLE "row_exclusion" DROP CONSTRAINT "row_exclusion_object_id_n_pk";--> statement-breakpoint
ALTER TABLE "seen_finding" DROP CONSTRAINT "seen_finding_object_id_rule_n_pk";--> statement-breakpoint
ALTER TABLE "table_chunk" DROP CONSTRAINT "table_chunk_object_id_chunk_pk";--> statement-breakpoint
ALTER TABLE "result" DROP CONSTRAINT "result_pkey";--> statement-breakpoint
ALTER TABLE "cell_edit" ADD COLUMN "version" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "change" ADD COLUMN "by" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "change" ADD COLUMN "session" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "job" ADD COLUMN "by" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "job" ADD COLUMN "session" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "job" ADD COLUMN "request_key" text;--> statement-breakpoint
ALTER TABLE "kept_model" ADD COLUMN "removed_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "object" ADD COLUMN "version" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "object" ADD COLUMN "removed_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "project" ADD COLUMN "check_due" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "row_exclusion" ADD COLUMN "version" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "row_exclusion" ADD COLUMN "excluded_by" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "seen_finding" ADD COLUMN "version" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "table_chunk" ADD COLUMN "version" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "viewpoint" ADD COLUMN "removed_at" timestamp with time zone;--> statement-breakpoint
CREATE TABLE "incoming" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"project_id" uuid NOT NULL,
	"file_id" uuid NOT NULL,
	"title" text NOT NULL,
	"choice" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);--> statement-breakpoint
ALTER TABLE "cell_edit" ADD CONSTRAINT "cell_edit_object_id_version_n_position_pk" PRIMARY KEY("object_id","version","n","position");--> statement-breakpoint
ALTER TABLE "result" ADD CONSTRAINT "result_project_id_key_pk" PRIMARY KEY("project_id","key");--> statement-breakpoint
ALTER TABLE "row_exclusion" ADD CONSTRAINT "row_exclusion_object_id_version_n_pk" PRIMARY KEY("object_id","version","n");--> statement-breakpoint
ALTER TABLE "seen_finding" ADD CONSTRAINT "seen_finding_object_id_version_rule_n_pk" PRIMARY KEY("object_id","version","rule","n");--> statement-breakpoint
ALTER TABLE "table_chunk" ADD CONSTRAINT "table_chunk_object_id_version_chunk_pk" PRIMARY KEY("object_id","version","chunk");--> statement-breakpoint
ALTER TABLE "incoming" ADD CONSTRAINT "incoming_project_id_project_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."project"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "incoming" ADD CONSTRAINT "incoming_file_id_file_id_fk" FOREIGN KEY ("file_id") REFERENCES "public"."file"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "incoming_project" ON "incoming" USING btree ("project_id","created_at");--> statement-breakpoint
CREATE INDEX "incoming_file" ON "incoming" USING btree ("file_id");--> statement-breakpoint
CREATE UNIQUE INDEX "job_request" ON "job" USING btree ("project_id","request_key");--> statement-breakpoint
CREATE INDEX "job_state" ON "job" USING btree ("state");--> statement-breakpoint
CREATE UNIQUE INDEX "kept_model_name" ON "kept_model" USING btree ("project_id","name") WHERE "kept_model"."removed_at" is null;--> statement-breakpoint
-- Names of sources were not kept apart before: the later ones of a name get a number.
UPDATE "object" o SET "name" = o."name" || ' (' || d.n || ')' FROM (SELECT "id", row_number() OVER (PARTITION BY "project_id", "name" ORDER BY "created_at", "id") AS n FROM "object" WHERE "file_id" IS NOT NULL) d WHERE d."id" = o."id" AND d.n > 1;--> statement-breakpoint
CREATE UNIQUE INDEX "source_name" ON "object" USING btree ("project_id","name") WHERE "object"."removed_at" is null and "object"."file_id" is not null;--> statement-breakpoint
CREATE UNIQUE INDEX "viewpoint_name" ON "viewpoint" USING btree ("project_id","name") WHERE "viewpoint"."removed_at" is null;
