-- Every project has its schemes and its ties, none at first.
INSERT INTO "object" ("project_id", "kind", "name", "state") SELECT "id", 'schemes', 'Schemes', '{"schemes": []}' FROM "project";--> statement-breakpoint
INSERT INTO "object" ("project_id", "kind", "name", "state") SELECT "id", 'ties', 'Ties', '{"ties": []}' FROM "project";
