-- Files written before migrations were counted here have these tables already.
CREATE TABLE IF NOT EXISTS `clips` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`file` text NOT NULL,
	`bytes` integer NOT NULL,
	`hash` text NOT NULL,
	`status` text NOT NULL,
	`info` text,
	`times` blob,
	`shakiness` real,
	`uses_copy` integer DEFAULT false NOT NULL,
	`error` text,
	`created_at` text NOT NULL,
	`deleted_at` text
);
--> statement-breakpoint
CREATE TABLE IF NOT EXISTS `renders` (
	`id` text PRIMARY KEY NOT NULL,
	`clip_id` text NOT NULL,
	`status` text NOT NULL,
	`order_json` text NOT NULL,
	`done` integer DEFAULT 0 NOT NULL,
	`bytes` integer,
	`note` text,
	`error` text,
	`created_at` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE IF NOT EXISTS `shots` (
	`clip_id` text PRIMARY KEY NOT NULL,
	`revision` integer NOT NULL,
	`document` text NOT NULL,
	`updated_at` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE IF NOT EXISTS `tracks` (
	`clip_id` text NOT NULL,
	`spot_id` text NOT NULL,
	`columns` text NOT NULL,
	PRIMARY KEY(`clip_id`, `spot_id`)
);
