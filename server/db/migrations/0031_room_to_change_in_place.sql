-- An object that gets another class stays where it is, with no index written, where no index holds the class and its page
-- has room. Nothing asks for all objects of a class but a class that goes: that looks at the images that count it.
DROP INDEX "objects_by_class";--> statement-breakpoint
ALTER TABLE "objects" SET (fillfactor = 85);--> statement-breakpoint
CREATE OR REPLACE FUNCTION check_objects_of_classes() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
	used bigint;
BEGIN
	SELECT g.id INTO used FROM gone g
	WHERE EXISTS (SELECT FROM collections c WHERE c.id = g.collection_id)
		-- From its images to their objects, never through all objects: "offset 0" has each image's asked for.
		AND EXISTS (
			SELECT FROM images i CROSS JOIN LATERAL (SELECT FROM objects o WHERE o.image_id = i.id AND o.class_id = g.id OFFSET 0) o
			WHERE i.collection_id = g.collection_id AND i.class_counts ? g.id::text
		) LIMIT 1;
	IF used IS NOT NULL THEN
		RAISE EXCEPTION 'objects have the class %', used USING ERRCODE = 'foreign_key_violation';
	END IF;
	RETURN NULL;
END
$$;
