ALTER TABLE "label_steps" DROP CONSTRAINT "label_steps_act_id_acts_id_fk";
--> statement-breakpoint
ALTER TABLE "label_steps" DROP CONSTRAINT "label_steps_image_id_images_id_fk";
--> statement-breakpoint
CREATE FUNCTION forget_steps_of_images() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	DELETE FROM label_steps s USING gone g WHERE s.image_id = g.id;
	RETURN NULL;
END
$$;
--> statement-breakpoint
CREATE FUNCTION forget_steps_of_acts() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	DELETE FROM label_steps s USING gone g WHERE s.act_id = g.id;
	RETURN NULL;
END
$$;
--> statement-breakpoint
CREATE TRIGGER forget_steps AFTER DELETE ON images REFERENCING OLD TABLE AS gone FOR EACH STATEMENT EXECUTE FUNCTION forget_steps_of_images();
--> statement-breakpoint
CREATE TRIGGER forget_steps AFTER DELETE ON acts REFERENCING OLD TABLE AS gone FOR EACH STATEMENT EXECUTE FUNCTION forget_steps_of_acts();
--> statement-breakpoint
-- Room on each page for the new states of its rows: a change of labels then touches none of the indexes.
ALTER TABLE "images" SET (fillfactor = 50);
