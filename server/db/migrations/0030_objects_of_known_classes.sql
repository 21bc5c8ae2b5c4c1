ALTER TABLE "objects" DROP CONSTRAINT "objects_class_id_classes_id_fk";
--> statement-breakpoint
-- A foreign key asks for the class of each object one by one, which takes as long as writing the object. An act, and a
-- delivery, write thousands of a few classes in one statement: these are asked for once.
CREATE FUNCTION check_classes_of_objects() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
	missing bigint;
BEGIN
	SELECT n.class_id INTO missing FROM (SELECT DISTINCT class_id FROM new_rows) n
	WHERE NOT EXISTS (SELECT FROM classes k WHERE k.id = n.class_id) LIMIT 1;
	IF missing IS NOT NULL THEN
		RAISE EXCEPTION 'objects need a class that there is: % is none', missing USING ERRCODE = 'foreign_key_violation';
	END IF;
	RETURN NULL;
END
$$;
--> statement-breakpoint
-- Where a whole collection goes, its objects go with it.
CREATE FUNCTION check_objects_of_classes() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
	used bigint;
BEGIN
	SELECT g.id INTO used FROM gone g
	WHERE EXISTS (SELECT FROM collections c WHERE c.id = g.collection_id)
		AND EXISTS (SELECT FROM objects o WHERE o.class_id = g.id) LIMIT 1;
	IF used IS NOT NULL THEN
		RAISE EXCEPTION 'objects have the class %', used USING ERRCODE = 'foreign_key_violation';
	END IF;
	RETURN NULL;
END
$$;
--> statement-breakpoint
CREATE TRIGGER classes_are_known AFTER INSERT ON objects REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION check_classes_of_objects();
--> statement-breakpoint
CREATE TRIGGER classes_stay_known AFTER UPDATE ON objects REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION check_classes_of_objects();
--> statement-breakpoint
CREATE TRIGGER objects_keep_classes AFTER DELETE ON classes REFERENCING OLD TABLE AS gone FOR EACH STATEMENT EXECUTE FUNCTION check_objects_of_classes();
