CREATE TABLE "cell_edit" (
	"object_id" uuid NOT NULL,
	"n" integer NOT NULL,
	"position" integer NOT NULL,
	"value" text NOT NULL,
	"original" text NOT NULL,
	"edited_by" text DEFAULT '' NOT NULL,
	"edited_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "cell_edit_object_id_n_position_pk" PRIMARY KEY("object_id","n","position")
);
--> statement-breakpoint
CREATE TABLE "change" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"project_id" uuid NOT NULL,
	"label" text NOT NULL,
	"steps" jsonb NOT NULL,
	"undone" boolean DEFAULT false NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "file" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"project_id" uuid NOT NULL,
	"name" text NOT NULL,
	"size" bigint NOT NULL,
	"sha256" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "file_chunk" (
	"file_id" uuid NOT NULL,
	"n" integer NOT NULL,
	"bytes" "bytea" NOT NULL,
	CONSTRAINT "file_chunk_file_id_n_pk" PRIMARY KEY("file_id","n")
);
--> statement-breakpoint
CREATE TABLE "finding" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"project_id" uuid NOT NULL,
	"object_id" uuid,
	"rule" text NOT NULL,
	"severity" text NOT NULL,
	"n" integer NOT NULL,
	"line" integer NOT NULL,
	"role" text,
	"hole" text,
	"message" text NOT NULL,
	"hint" text NOT NULL,
	"others" integer[],
	"proposal" text
);
--> statement-breakpoint
CREATE TABLE "job" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"project_id" uuid NOT NULL,
	"kind" text NOT NULL,
	"title" text NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"payload" jsonb NOT NULL,
	"what" text DEFAULT '' NOT NULL,
	"share" double precision DEFAULT 0 NOT NULL,
	"outcome" jsonb,
	"attempt" integer DEFAULT 0 NOT NULL,
	"heartbeat" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "object" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"project_id" uuid NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"revision" integer DEFAULT 1 NOT NULL,
	"content_hash" text DEFAULT '' NOT NULL,
	"state" jsonb NOT NULL,
	"file_id" uuid,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "object_input" (
	"object_id" uuid NOT NULL,
	"input_id" uuid NOT NULL,
	CONSTRAINT "object_input_object_id_input_id_pk" PRIMARY KEY("object_id","input_id")
);
--> statement-breakpoint
CREATE TABLE "project" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"author" text DEFAULT '' NOT NULL,
	"description" text DEFAULT '' NOT NULL,
	"crs" integer DEFAULT 0 NOT NULL,
	"length_unit" text DEFAULT 'm' NOT NULL,
	"extent" jsonb,
	"revision" integer DEFAULT 1 NOT NULL,
	"checked_key" text DEFAULT '' NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "result" (
	"key" text PRIMARY KEY NOT NULL,
	"project_id" uuid NOT NULL,
	"kind" text NOT NULL,
	"report" jsonb NOT NULL,
	"seconds" double precision NOT NULL,
	"bytes" "bytea" NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "row_exclusion" (
	"object_id" uuid NOT NULL,
	"n" integer NOT NULL,
	"excluded_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "row_exclusion_object_id_n_pk" PRIMARY KEY("object_id","n")
);
--> statement-breakpoint
CREATE TABLE "seen_finding" (
	"object_id" uuid NOT NULL,
	"rule" text NOT NULL,
	"n" integer NOT NULL,
	"reason" text NOT NULL,
	"seen_by" text DEFAULT '' NOT NULL,
	"seen_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "seen_finding_object_id_rule_n_pk" PRIMARY KEY("object_id","rule","n")
);
--> statement-breakpoint
CREATE TABLE "table_chunk" (
	"object_id" uuid NOT NULL,
	"chunk" integer NOT NULL,
	"bytes" "bytea" NOT NULL,
	CONSTRAINT "table_chunk_object_id_chunk_pk" PRIMARY KEY("object_id","chunk")
);
--> statement-breakpoint
ALTER TABLE "cell_edit" ADD CONSTRAINT "cell_edit_object_id_object_id_fk" FOREIGN KEY ("object_id") REFERENCES "public"."object"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "change" ADD CONSTRAINT "change_project_id_project_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."project"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "file" ADD CONSTRAINT "file_project_id_project_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."project"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "file_chunk" ADD CONSTRAINT "file_chunk_file_id_file_id_fk" FOREIGN KEY ("file_id") REFERENCES "public"."file"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "finding" ADD CONSTRAINT "finding_project_id_project_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."project"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "finding" ADD CONSTRAINT "finding_object_id_object_id_fk" FOREIGN KEY ("object_id") REFERENCES "public"."object"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "job" ADD CONSTRAINT "job_project_id_project_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."project"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "object" ADD CONSTRAINT "object_project_id_project_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."project"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "object" ADD CONSTRAINT "object_file_id_file_id_fk" FOREIGN KEY ("file_id") REFERENCES "public"."file"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "object_input" ADD CONSTRAINT "object_input_object_id_object_id_fk" FOREIGN KEY ("object_id") REFERENCES "public"."object"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "object_input" ADD CONSTRAINT "object_input_input_id_object_id_fk" FOREIGN KEY ("input_id") REFERENCES "public"."object"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "result" ADD CONSTRAINT "result_project_id_project_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."project"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "row_exclusion" ADD CONSTRAINT "row_exclusion_object_id_object_id_fk" FOREIGN KEY ("object_id") REFERENCES "public"."object"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "seen_finding" ADD CONSTRAINT "seen_finding_object_id_object_id_fk" FOREIGN KEY ("object_id") REFERENCES "public"."object"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "table_chunk" ADD CONSTRAINT "table_chunk_object_id_object_id_fk" FOREIGN KEY ("object_id") REFERENCES "public"."object"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "change_project" ON "change" USING btree ("project_id","id");--> statement-breakpoint
CREATE INDEX "file_project" ON "file" USING btree ("project_id");--> statement-breakpoint
CREATE INDEX "finding_project" ON "finding" USING btree ("project_id");--> statement-breakpoint
CREATE INDEX "finding_row" ON "finding" USING btree ("object_id","n");--> statement-breakpoint
CREATE INDEX "job_project" ON "job" USING btree ("project_id","created_at");--> statement-breakpoint
CREATE INDEX "object_project" ON "object" USING btree ("project_id");--> statement-breakpoint
CREATE INDEX "object_input_input" ON "object_input" USING btree ("input_id");--> statement-breakpoint
-- Large values are typed arrays and files: compressing them costs more time than it saves room.
ALTER TABLE "file_chunk" ALTER COLUMN "bytes" SET STORAGE EXTERNAL;--> statement-breakpoint
ALTER TABLE "table_chunk" ALTER COLUMN "bytes" SET STORAGE EXTERNAL;--> statement-breakpoint
ALTER TABLE "result" ALTER COLUMN "bytes" SET STORAGE EXTERNAL;
