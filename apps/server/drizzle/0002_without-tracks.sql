-- What was measured of spots, in the shape that every kind of tracker has now.
INSERT INTO `measured` ("clip_id", "item", "kind", "samples", "columns")
SELECT "clip_id", "spot_id", 'spot', length(replace(json_extract("columns", '$.state'), '-', '')),
	json_object(
		'kind', 'spot',
		'start', json_extract("columns", '$.start'),
		'state', json_extract("columns", '$.state'),
		'confidence', json(json_extract("columns", '$.confidence')),
		'values', json(CASE WHEN json_extract("columns", '$.mismatch') IS NULL
			THEN json_object('x', json(json_extract("columns", '$.x')), 'y', json(json_extract("columns", '$.y')))
			ELSE json_object('x', json(json_extract("columns", '$.x')), 'y', json(json_extract("columns", '$.y')),
				'mismatch', json(json_extract("columns", '$.mismatch'))) END)
	)
FROM `tracks` WHERE "clip_id" IN (SELECT "id" FROM `clips`);
--> statement-breakpoint
DROP TABLE `tracks`;
--> statement-breakpoint
PRAGMA user_version = 2;
