CREATE TABLE `jobs` (
	`id` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`subject` text NOT NULL,
	`state` text NOT NULL,
	`worker` text,
	`lease_until` integer DEFAULT 0 NOT NULL,
	`not_before` integer DEFAULT 0 NOT NULL,
	`attempt` integer DEFAULT 0 NOT NULL,
	`part` integer DEFAULT 0 NOT NULL,
	`created_at` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `jobs_by_state` ON `jobs` (`kind`,`state`);--> statement-breakpoint
CREATE INDEX `jobs_by_subject` ON `jobs` (`subject`);--> statement-breakpoint
CREATE TABLE `measured` (
	`clip_id` text NOT NULL,
	`item` text NOT NULL,
	`kind` text NOT NULL,
	`samples` integer NOT NULL,
	`columns` text NOT NULL,
	PRIMARY KEY(`clip_id`, `item`),
	FOREIGN KEY (`clip_id`) REFERENCES `clips`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `render_inputs` (
	`render_id` text NOT NULL,
	`item` text NOT NULL,
	`columns` text NOT NULL,
	PRIMARY KEY(`render_id`, `item`),
	FOREIGN KEY (`render_id`) REFERENCES `renders`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX IF NOT EXISTS `clips_by_hash` ON `clips` (`hash`);--> statement-breakpoint
PRAGMA foreign_keys=OFF;--> statement-breakpoint
CREATE TABLE `__new_renders` (
	`id` text PRIMARY KEY NOT NULL,
	`clip_id` text NOT NULL,
	`status` text NOT NULL,
	`order_json` text NOT NULL,
	`done` integer DEFAULT 0 NOT NULL,
	`bytes` integer,
	`note` text,
	`error` text,
	`created_at` text NOT NULL,
	FOREIGN KEY (`clip_id`) REFERENCES `clips`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
INSERT INTO `__new_renders`("id", "clip_id", "status", "order_json", "done", "bytes", "note", "error", "created_at") SELECT "id", "clip_id", "status", "order_json", "done", "bytes", "note", "error", "created_at" FROM `renders` WHERE "clip_id" IN (SELECT "id" FROM `clips`);--> statement-breakpoint
DROP TABLE `renders`;--> statement-breakpoint
ALTER TABLE `__new_renders` RENAME TO `renders`;--> statement-breakpoint
PRAGMA foreign_keys=ON;--> statement-breakpoint
CREATE INDEX IF NOT EXISTS `renders_by_clip` ON `renders` (`clip_id`);--> statement-breakpoint
CREATE TABLE `__new_shots` (
	`clip_id` text PRIMARY KEY NOT NULL,
	`revision` integer NOT NULL,
	`document` text NOT NULL,
	`updated_at` text NOT NULL,
	FOREIGN KEY (`clip_id`) REFERENCES `clips`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
INSERT INTO `__new_shots`("clip_id", "revision", "document", "updated_at") SELECT "clip_id", "revision", "document", "updated_at" FROM `shots` WHERE "clip_id" IN (SELECT "id" FROM `clips`);--> statement-breakpoint
DROP TABLE `shots`;--> statement-breakpoint
ALTER TABLE `__new_shots` RENAME TO `shots`;