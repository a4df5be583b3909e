CREATE TABLE "layout" (
	"project_id" uuid NOT NULL,
	"browser" text NOT NULL,
	"state" jsonb NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "layout_project_id_browser_pk" PRIMARY KEY("project_id","browser")
);
--> statement-breakpoint
ALTER TABLE "layout" ADD CONSTRAINT "layout_project_id_project_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."project"("id") ON DELETE cascade ON UPDATE no action;