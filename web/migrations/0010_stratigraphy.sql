-- Every project has its schemes, its ties and its absences set by hand, none at first.
INSERT INTO "object" ("project_id", "kind", "name", "state") SELECT "id", 'schemes', 'Schemes', '{"schemes": []}' FROM "project";--> statement-breakpoint
INSERT INTO "object" ("project_id", "kind", "name", "state") SELECT "id", 'ties', 'Ties', '{"ties": []}' FROM "project";--> statement-breakpoint
INSERT INTO "object" ("project_id", "kind", "name", "state") SELECT "id", 'absences', 'Absences set by hand', '{"absences": []}' FROM "project";
