ALTER TABLE `clips` ADD `brought_hash` text;--> statement-breakpoint
CREATE INDEX `clips_by_brought_hash` ON `clips` (`brought_hash`);