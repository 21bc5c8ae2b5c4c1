-- UUID version 7 (RFC 9562, section 5.7): milliseconds, then random bits.
CREATE FUNCTION uuid_v7() RETURNS uuid LANGUAGE sql VOLATILE PARALLEL SAFE AS $$
	SELECT encode(set_bit(set_bit(overlay(uuid_send(gen_random_uuid())
		PLACING substring(int8send(floor(extract(epoch FROM clock_timestamp()) * 1000)::bigint) FROM 3) FROM 1 FOR 6), 52, 1), 53, 1), 'hex')::uuid
$$;--> statement-breakpoint
-- The runs of a mask as LEB128, as core/geometry/run-bytes writes them.
CREATE FUNCTION pg_temp.run_bytes(counts jsonb) RETURNS bytea LANGUAGE sql IMMUTABLE AS $$
	SELECT coalesce(string_agg(set_byte('\x00'::bytea, 0, (((c.n >> (7 * k)) & 127) | CASE WHEN c.n >> (7 * (k + 1)) > 0 THEN 128 ELSE 0 END)::int), ''::bytea ORDER BY c.nth, k), ''::bytea)
	FROM (SELECT value::bigint AS n, nth FROM jsonb_array_elements_text(counts) WITH ORDINALITY AS t(value, nth)) c, generate_series(0, 7) k
	WHERE k = 0 OR c.n >> (7 * k) > 0
$$;--> statement-breakpoint
CREATE FUNCTION pg_temp.stored_shape(shape jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
	SELECT CASE WHEN shape->>'kind' = 'mask' AND shape ? 'counts'
		THEN shape - 'counts' || jsonb_build_object('runs', replace(encode(pg_temp.run_bytes(shape->'counts'), 'base64'), E'\n', '')) ELSE shape END
$$;--> statement-breakpoint
CREATE FUNCTION pg_temp.stored_objects(objects jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
	SELECT CASE WHEN jsonb_typeof(objects) = 'array' THEN (SELECT coalesce(jsonb_agg(o || jsonb_build_object('shape', pg_temp.stored_shape(o->'shape')) ORDER BY nth), '[]')
		FROM jsonb_array_elements(objects) WITH ORDINALITY AS t(o, nth)) ELSE objects END
$$;--> statement-breakpoint
CREATE TABLE "acts" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "acts_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"collection_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"text" text NOT NULL,
	"actor" text NOT NULL,
	"via" jsonb,
	"request" jsonb,
	"status" text DEFAULT 'running' NOT NULL,
	"images" integer DEFAULT 0 NOT NULL,
	"left" integer DEFAULT 0 NOT NULL,
	"reached" bigint DEFAULT 0 NOT NULL,
	"undoes" bigint,
	"undone_by" bigint,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "label_steps" (
	"act_id" bigint NOT NULL,
	"image_id" bigint NOT NULL,
	"revision_before" integer NOT NULL,
	"steps" jsonb NOT NULL,
	"inverse" jsonb NOT NULL,
	CONSTRAINT "label_steps_act_id_image_id_pk" PRIMARY KEY("act_id","image_id")
);
--> statement-breakpoint
CREATE TABLE "version_renders" (
	"version_id" bigint NOT NULL,
	"key" text collate "C" NOT NULL,
	CONSTRAINT "version_renders_version_id_key_pk" PRIMARY KEY("version_id","key")
);
--> statement-breakpoint
ALTER TABLE "collections" DROP CONSTRAINT "collections_name_unique";--> statement-breakpoint
ALTER TABLE "images" DROP CONSTRAINT "image_once";--> statement-breakpoint
ALTER TABLE "blob_candidates" DROP CONSTRAINT "blob_candidates_pkey";--> statement-breakpoint
ALTER TABLE "blob_candidates" ALTER COLUMN "sha256" SET DATA TYPE text collate "C";--> statement-breakpoint
ALTER TABLE "deliveries" ALTER COLUMN "origin" SET DEFAULT '{"kind":"files"}'::jsonb;--> statement-breakpoint
ALTER TABLE "delivery_files" ALTER COLUMN "sha256" SET DATA TYPE text collate "C";--> statement-breakpoint
ALTER TABLE "delivery_items" ALTER COLUMN "sha256" SET DATA TYPE text collate "C";--> statement-breakpoint
ALTER TABLE "images" ALTER COLUMN "sha256" SET DATA TYPE text collate "C";--> statement-breakpoint
ALTER TABLE "links" ALTER COLUMN "sha256" SET DATA TYPE text collate "C";--> statement-breakpoint
ALTER TABLE "objects" ALTER COLUMN "ordinal" SET DATA TYPE double precision;--> statement-breakpoint
ALTER TABLE "packages" ALTER COLUMN "sha256" SET DATA TYPE text collate "C";--> statement-breakpoint
ALTER TABLE "version_sources" ALTER COLUMN "sha256" SET DATA TYPE text collate "C";--> statement-breakpoint
ALTER TABLE "versions" ALTER COLUMN "digest" SET DATA TYPE text collate "C";--> statement-breakpoint
ALTER TABLE "blob_candidates" ADD COLUMN "kind" text DEFAULT 'blob' NOT NULL;--> statement-breakpoint
ALTER TABLE "blob_candidates" ADD CONSTRAINT "blob_candidates_kind_sha256_pk" PRIMARY KEY("kind","sha256");--> statement-breakpoint
ALTER TABLE "classes" ADD COLUMN "attributes" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "classes" ADD COLUMN "parent_id" bigint;--> statement-breakpoint
ALTER TABLE "classes" ADD COLUMN "merged_into" bigint;--> statement-breakpoint
ALTER TABLE "classes" ADD COLUMN "removed_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "classes" ADD COLUMN "labels" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "collections" ADD COLUMN "revision" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "collections" ADD COLUMN "images" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "collections" ADD COLUMN "objects" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "collections" ADD COLUMN "bytes" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "collections" ADD COLUMN "labeled" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "collections" ADD COLUMN "empty" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "collections" ADD COLUMN "unlabeled" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "collections" ADD COLUMN "deleting_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "deliveries" ADD COLUMN "undone_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "deliveries" ADD COLUMN "undone_by" text;--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "tags" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "attributes" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "suggestions" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "pinned" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "revision" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "changed_revision" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "removed_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "fence" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "objects" ADD COLUMN "uid" uuid DEFAULT uuid_v7() NOT NULL;--> statement-breakpoint
ALTER TABLE "objects" ADD COLUMN "mask" "bytea";--> statement-breakpoint
ALTER TABLE "objects" ADD COLUMN "group_uid" uuid;--> statement-breakpoint
ALTER TABLE "acts" ADD CONSTRAINT "acts_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "acts" ADD CONSTRAINT "acts_undoes_acts_id_fk" FOREIGN KEY ("undoes") REFERENCES "public"."acts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "acts" ADD CONSTRAINT "acts_undone_by_acts_id_fk" FOREIGN KEY ("undone_by") REFERENCES "public"."acts"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "label_steps" ADD CONSTRAINT "label_steps_act_id_acts_id_fk" FOREIGN KEY ("act_id") REFERENCES "public"."acts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "label_steps" ADD CONSTRAINT "label_steps_image_id_images_id_fk" FOREIGN KEY ("image_id") REFERENCES "public"."images"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "version_renders" ADD CONSTRAINT "version_renders_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "acts_by_collection" ON "acts" USING btree ("collection_id","id");--> statement-breakpoint
CREATE INDEX "acts_by_undone" ON "acts" USING btree ("undoes");--> statement-breakpoint
CREATE INDEX "acts_by_undoing" ON "acts" USING btree ("undone_by");--> statement-breakpoint
CREATE INDEX "label_steps_by_image" ON "label_steps" USING btree ("image_id","revision_before");--> statement-breakpoint
CREATE INDEX "version_renders_by_key" ON "version_renders" USING btree ("key");--> statement-breakpoint
ALTER TABLE "classes" ADD CONSTRAINT "classes_parent_id_classes_id_fk" FOREIGN KEY ("parent_id") REFERENCES "public"."classes"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "classes" ADD CONSTRAINT "classes_merged_into_classes_id_fk" FOREIGN KEY ("merged_into") REFERENCES "public"."classes"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "classes_by_parent" ON "classes" USING btree ("parent_id");--> statement-breakpoint
CREATE INDEX "classes_by_merger" ON "classes" USING btree ("merged_into");--> statement-breakpoint
CREATE UNIQUE INDEX "collection_name_once" ON "collections" USING btree ("name") WHERE "collections"."deleting_at" is null;--> statement-breakpoint
CREATE INDEX "deliveries_by_source" ON "deliveries" USING btree ("source_id");--> statement-breakpoint
CREATE UNIQUE INDEX "image_once" ON "images" USING btree ("collection_id","sha256") WHERE "images"."removed_at" is null;--> statement-breakpoint
CREATE INDEX "images_by_collection" ON "images" USING btree ("collection_id","id");--> statement-breakpoint
CREATE INDEX "images_by_change" ON "images" USING btree ("collection_id","changed_revision");--> statement-breakpoint
CREATE INDEX "images_of_the_strip" ON "images" USING btree ("collection_id",md5("sha256")) WHERE "images"."removed_at" is null and "images"."state" <> 'empty';--> statement-breakpoint
CREATE INDEX "images_in_the_bin" ON "images" USING btree ("collection_id","removed_at") WHERE "images"."removed_at" is not null;--> statement-breakpoint
CREATE INDEX "jobs_by_collection" ON "jobs" USING btree ("collection_id");--> statement-breakpoint
CREATE UNIQUE INDEX "job_once" ON "jobs" USING btree ("kind","subject") WHERE "jobs"."status" in ('queued', 'running', 'paused');--> statement-breakpoint
CREATE UNIQUE INDEX "object_uid_once" ON "objects" USING btree ("uid");--> statement-breakpoint
CREATE INDEX "versions_by_plan" ON "versions" USING btree ("plan_id");--> statement-breakpoint
-- What an act came to: steps and their inverse from one state of an image's labels to the next.
CREATE TEMP TABLE label_states AS
WITH changes AS (
	SELECT c.image_id, c.delivery_id, row_number() OVER (PARTITION BY c.image_id ORDER BY c.changed_at, c.delivery_id) AS seq, c.before
	FROM label_changes c JOIN deliveries d ON d.id = c.delivery_id WHERE d.status = 'taken'
), objects_now AS (
	SELECT o.image_id, jsonb_agg(jsonb_build_object('uid', o.uid, 'class', o.class_id, 'order', o.ordinal, 'shape', pg_temp.stored_shape(o.shape))
		|| coalesce(CASE WHEN o.attributes IS NOT NULL AND jsonb_typeof(o.attributes) = 'object' THEN jsonb_build_object('attributes', o.attributes) END, '{}') || o.flags ORDER BY o.ordinal) AS objects
	FROM objects o WHERE o.image_id IN (SELECT image_id FROM changes) GROUP BY o.image_id
)
SELECT image_id, delivery_id, seq, before->>'state' AS state, before->'captions' AS captions, before->'fields' AS fields, before->'imageClassIds' AS classes,
	(SELECT coalesce(jsonb_agg(jsonb_build_object('uid', uuid_v7(), 'class', o->'class_id', 'order', o->'ordinal', 'shape', pg_temp.stored_shape(o->'shape'))
		|| coalesce(CASE WHEN jsonb_typeof(o->'attributes') = 'object' THEN jsonb_build_object('attributes', o->'attributes') END, '{}') || coalesce(o->'flags', '{}')), '[]')
		FROM jsonb_array_elements(before->'objects') o) AS objects
FROM changes
UNION ALL
SELECT i.id, NULL, n.seq + 1, i.state, i.captions, i.fields, to_jsonb(i.image_class_ids), coalesce(o.objects, '[]')
FROM (SELECT image_id, max(seq) AS seq FROM changes GROUP BY image_id) n JOIN images i ON i.id = n.image_id LEFT JOIN objects_now o ON o.image_id = i.id;--> statement-breakpoint
CREATE FUNCTION pg_temp.steps_between(a label_states, b label_states) RETURNS jsonb LANGUAGE sql STABLE AS $$
	SELECT coalesce(jsonb_agg(step ORDER BY place, nth), '[]') FROM (
		SELECT 1 AS place, nth, jsonb_build_object('do', 'remove-object', 'uid', o->'uid') AS step FROM jsonb_array_elements(a.objects) WITH ORDINALITY AS t(o, nth)
		UNION ALL SELECT 2, nth, jsonb_build_object('do', 'add-object', 'object', o) FROM jsonb_array_elements(b.objects) WITH ORDINALITY AS t(o, nth)
		UNION ALL SELECT 3, nth, jsonb_build_object('do', 'remove-class', 'class', k) FROM jsonb_array_elements(a.classes) WITH ORDINALITY AS t(k, nth) WHERE NOT b.classes @> k
		UNION ALL SELECT 4, nth, jsonb_build_object('do', 'add-class', 'class', k) FROM jsonb_array_elements(b.classes) WITH ORDINALITY AS t(k, nth) WHERE NOT a.classes @> k
		UNION ALL SELECT 5, 0, jsonb_build_object('do', 'set-caption', 'captions', b.captions) WHERE a.captions <> b.captions
		UNION ALL SELECT 6, row_number() OVER (), jsonb_build_object('do', 'set-field', 'name', key, 'value', b.fields->key)
			FROM (SELECT jsonb_object_keys(a.fields || b.fields) AS key) keys WHERE a.fields->key IS DISTINCT FROM b.fields->key
		UNION ALL SELECT 7, 0, jsonb_build_object('do', 'set-state', 'state', b.state) WHERE a.state <> b.state
	) steps
$$;--> statement-breakpoint
INSERT INTO acts (collection_id, kind, text, actor, via, status, images, created_at)
SELECT d.collection_id, 'take-in', 'took in ' || d.name, d.created_by, jsonb_build_object('kind', 'delivery', 'id', d.id), 'done',
	(SELECT count(*) FROM images i WHERE i.delivery_id = d.id) + (SELECT count(*) FROM label_changes c WHERE c.delivery_id = d.id), coalesce(d.taken_at, d.created_at)
FROM deliveries d WHERE d.status = 'taken' ORDER BY coalesce(d.taken_at, d.created_at), d.id;--> statement-breakpoint
INSERT INTO label_steps (act_id, image_id, revision_before, steps, inverse)
SELECT a.id, i.id, -1, '[{"do": "set-presence", "present": true}]', '[{"do": "set-presence", "present": false}]'
FROM acts a JOIN images i ON i.delivery_id = (a.via->>'id')::bigint;--> statement-breakpoint
INSERT INTO label_steps (act_id, image_id, revision_before, steps, inverse)
SELECT act.id, a.image_id, a.seq - 1, pg_temp.steps_between(a, b), pg_temp.steps_between(b, a)
FROM label_states a JOIN label_states b ON b.image_id = a.image_id AND b.seq = a.seq + 1
JOIN acts act ON (act.via->>'id')::bigint = a.delivery_id;--> statement-breakpoint
UPDATE images i SET revision = n.seq FROM (SELECT image_id, max(seq) - 1 AS seq FROM label_states GROUP BY image_id) n WHERE n.image_id = i.id;--> statement-breakpoint
DROP FUNCTION pg_temp.steps_between(label_states, label_states);--> statement-breakpoint
DROP TABLE label_states;--> statement-breakpoint
UPDATE objects SET mask = pg_temp.run_bytes(shape->'counts'), shape = shape - 'counts' WHERE shape->>'kind' = 'mask';--> statement-breakpoint
UPDATE delivery_items SET objects = pg_temp.stored_objects(objects), item = item || jsonb_build_object('objects', pg_temp.stored_objects(item->'objects'))
WHERE objects::text LIKE '%"mask"%' OR item::text LIKE '%"mask"%';--> statement-breakpoint
-- Findings carry their examples beside their sentence, not within it.
CREATE FUNCTION pg_temp.with_examples(findings jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
	SELECT CASE WHEN jsonb_typeof(findings) = 'array' THEN (SELECT coalesce(jsonb_agg(f || jsonb_build_object('sentence', split_part(f->>'message', ' For example: ', 1),
		'examples', to_jsonb(array_remove(string_to_array(split_part(f->>'message', ' For example: ', 2), ' · '), ''))) ORDER BY nth), '[]')
		FROM jsonb_array_elements(findings) WITH ORDINALITY AS t(f, nth)) ELSE findings END
$$;--> statement-breakpoint
UPDATE deliveries SET findings = pg_temp.with_examples(findings),
	sheet = CASE WHEN sheet IS NULL THEN NULL ELSE sheet || jsonb_build_object('findings', pg_temp.with_examples(sheet->'findings')) END;--> statement-breakpoint
UPDATE packages SET findings = pg_temp.with_examples(findings);--> statement-breakpoint
UPDATE delivery_items SET findings = pg_temp.with_examples(findings) WHERE findings IS NOT NULL;--> statement-breakpoint
-- Where what was sent lies follows from the delivery; no absolute path stays in the database.
UPDATE deliveries SET origin = origin - 'folder' WHERE origin->>'kind' IN ('files', 'addresses');--> statement-breakpoint
UPDATE deliveries SET origin = jsonb_set(origin, '{root}', to_jsonb(regexp_replace(origin->>'root', '^.*/', ''))) WHERE origin->>'kind' = 'folder';--> statement-breakpoint
UPDATE intake_sources s SET location = 'folder ' || trim(both '/' from (d.origin->>'root') || '/' || (d.origin->>'path')) FROM deliveries d WHERE d.source_id = s.id AND d.origin->>'kind' = 'folder';--> statement-breakpoint
UPDATE deliveries SET source = trim(both '/' from (origin->>'root') || '/' || (origin->>'path')) WHERE origin->>'kind' = 'folder';--> statement-breakpoint
-- Images of another collection are named by a selection.
UPDATE deliveries SET origin = origin - 'images' || jsonb_build_object('selection', CASE WHEN jsonb_typeof(origin->'images') = 'array'
	THEN jsonb_build_object('where', jsonb_build_object('image', origin->'images'), 'except', '[]'::jsonb) ELSE 'null'::jsonb END) WHERE origin->>'kind' = 'collection';--> statement-breakpoint
UPDATE collections c SET (images, objects, bytes, labeled, empty, unlabeled) = (SELECT count(*), coalesce(sum(object_count), 0), coalesce(sum(i.bytes), 0),
	count(*) FILTER (WHERE state = 'labeled'), count(*) FILTER (WHERE state = 'empty'), count(*) FILTER (WHERE state = 'unlabeled') FROM images i WHERE i.collection_id = c.id);--> statement-breakpoint
UPDATE classes k SET labels = coalesce((SELECT sum((i.class_counts->>k.id::text)::int) FROM images i WHERE i.collection_id = k.collection_id AND i.class_counts ? k.id::text), 0)
	+ (SELECT count(*) FROM images i WHERE i.collection_id = k.collection_id AND k.id = ANY(i.image_class_ids));--> statement-breakpoint
-- The numbers of a collection and of its classes follow every statement that touches its images.
CREATE FUNCTION count_images() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
	counted text := 'FROM old_rows o JOIN new_rows n ON n.id = o.id WHERE (o.removed_at, o.state, o.object_count, o.bytes, o.class_counts, o.image_class_ids)
		IS DISTINCT FROM (n.removed_at, n.state, n.object_count, n.bytes, n.class_counts, n.image_class_ids)';
	changes text := CASE TG_OP
		WHEN 'INSERT' THEN 'SELECT 1 AS sign, n.* FROM new_rows n WHERE n.removed_at IS NULL'
		WHEN 'DELETE' THEN 'SELECT -1 AS sign, o.* FROM old_rows o WHERE o.removed_at IS NULL'
		ELSE 'SELECT -1 AS sign, o.* ' || counted || ' AND o.removed_at IS NULL UNION ALL SELECT 1, n.* ' || counted || ' AND n.removed_at IS NULL'
		END;
BEGIN
	EXECUTE 'UPDATE collections c SET images = c.images + d.images, objects = c.objects + d.objects, bytes = c.bytes + d.bytes,
		labeled = c.labeled + d.labeled, empty = c.empty + d.empty, unlabeled = c.unlabeled + d.unlabeled
		FROM (SELECT collection_id, sum(sign) AS images, sum(sign * object_count) AS objects, sum(sign * r.bytes) AS bytes,
			coalesce(sum(sign) FILTER (WHERE state = ''labeled''), 0) AS labeled, coalesce(sum(sign) FILTER (WHERE state = ''empty''), 0) AS empty,
			coalesce(sum(sign) FILTER (WHERE state = ''unlabeled''), 0) AS unlabeled FROM (' || changes || ') r GROUP BY collection_id) d
		WHERE c.id = d.collection_id';
	EXECUTE 'UPDATE classes k SET labels = k.labels + d.labels FROM (
		SELECT l.id, sum(l.n) AS labels FROM (' || changes || ') r
		CROSS JOIN LATERAL (SELECT key::bigint AS id, sign * value::bigint AS n FROM jsonb_each_text(r.class_counts)
			UNION ALL SELECT unnest(r.image_class_ids), sign) l GROUP BY l.id HAVING sum(l.n) <> 0) d
		WHERE k.id = d.id';
	RETURN NULL;
END
$$;--> statement-breakpoint
CREATE TRIGGER images_counted_in AFTER INSERT ON images REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION count_images();--> statement-breakpoint
CREATE TRIGGER images_counted_out AFTER DELETE ON images REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION count_images();--> statement-breakpoint
CREATE TRIGGER images_counted_anew AFTER UPDATE ON images REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION count_images();
