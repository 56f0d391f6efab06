PRAGMA foreign_keys=OFF;--> statement-breakpoint
CREATE TABLE `__new_measured` (
	`clip_id` text NOT NULL,
	`item` text NOT NULL,
	`kind` text NOT NULL,
	`samples` integer NOT NULL,
	`columns` blob NOT NULL,
	PRIMARY KEY(`clip_id`, `item`),
	FOREIGN KEY (`clip_id`) REFERENCES `clips`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
INSERT INTO `__new_measured`("clip_id", "item", "kind", "samples", "columns") SELECT "clip_id", "item", "kind", "samples", "columns" FROM `measured`;--> statement-breakpoint
DROP TABLE `measured`;--> statement-breakpoint
ALTER TABLE `__new_measured` RENAME TO `measured`;--> statement-breakpoint
PRAGMA foreign_keys=ON;--> statement-breakpoint
CREATE TABLE `__new_render_inputs` (
	`render_id` text NOT NULL,
	`item` text NOT NULL,
	`columns` blob NOT NULL,
	PRIMARY KEY(`render_id`, `item`),
	FOREIGN KEY (`render_id`) REFERENCES `renders`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
INSERT INTO `__new_render_inputs`("render_id", "item", "columns") SELECT "render_id", "item", "columns" FROM `render_inputs`;--> statement-breakpoint
DROP TABLE `render_inputs`;--> statement-breakpoint
ALTER TABLE `__new_render_inputs` RENAME TO `render_inputs`;--> statement-breakpoint
PRAGMA user_version = 4;
