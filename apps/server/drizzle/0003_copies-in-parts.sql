ALTER TABLE `clips` ADD `made` text;
--> statement-breakpoint
PRAGMA user_version = 3;
