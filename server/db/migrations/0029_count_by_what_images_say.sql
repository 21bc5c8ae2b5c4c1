-- Old and new rows are joined once, and images of which the same is said are counted together before their classes are
-- looked at: of thousands that an act changes most say the same.
CREATE OR REPLACE FUNCTION count_images() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
	changes text := CASE TG_OP
		WHEN 'INSERT' THEN 'SELECT 1 AS sign, n.* FROM new_rows n WHERE n.removed_at IS NULL'
		WHEN 'DELETE' THEN 'SELECT -1 AS sign, o.* FROM old_rows o WHERE o.removed_at IS NULL'
		ELSE 'SELECT r.* FROM old_rows o JOIN new_rows n ON n.id = o.id CROSS JOIN LATERAL (VALUES
				(-1, o.collection_id, o.removed_at, o.state, o.object_count, o.bytes, o.class_counts, o.image_class_ids),
				(1, n.collection_id, n.removed_at, n.state, n.object_count, n.bytes, n.class_counts, n.image_class_ids)
			) r(sign, collection_id, removed_at, state, object_count, bytes, class_counts, image_class_ids)
			WHERE (o.removed_at, o.state, o.object_count, o.bytes, o.class_counts, o.image_class_ids)
				IS DISTINCT FROM (n.removed_at, n.state, n.object_count, n.bytes, n.class_counts, n.image_class_ids)
				AND r.removed_at IS NULL'
		END;
	of_collections jsonb;
	of_classes jsonb;
BEGIN
	EXECUTE 'WITH said AS MATERIALIZED (
			SELECT collection_id, state, class_counts, image_class_ids,
				sum(sign) AS images, sum(sign * object_count) AS objects, sum(sign * c.bytes) AS bytes
			FROM (' || changes || ') c GROUP BY collection_id, state, class_counts, image_class_ids)
		SELECT (SELECT jsonb_agg(c) FROM (
				SELECT collection_id AS id, sum(images) AS images, sum(objects) AS objects, sum(s.bytes) AS bytes,
					coalesce(sum(images) FILTER (WHERE state = ''labeled''), 0) AS labeled,
					coalesce(sum(images) FILTER (WHERE state = ''empty''), 0) AS empty,
					coalesce(sum(images) FILTER (WHERE state = ''unlabeled''), 0) AS unlabeled
				FROM said s GROUP BY collection_id) c),
			(SELECT jsonb_agg(k) FROM (
				SELECT l.id, sum(s.images * l.n) AS labels FROM said s
				CROSS JOIN LATERAL (SELECT key::bigint AS id, value::bigint AS n FROM jsonb_each_text(s.class_counts)
					UNION ALL SELECT unnest(s.image_class_ids), 1) l
				WHERE s.images <> 0 GROUP BY l.id HAVING sum(s.images * l.n) <> 0) k)'
		INTO of_collections, of_classes;
	UPDATE collections c SET images = c.images + d.images, objects = c.objects + d.objects, bytes = c.bytes + d.bytes,
		labeled = c.labeled + d.labeled, empty = c.empty + d.empty, unlabeled = c.unlabeled + d.unlabeled
	FROM jsonb_to_recordset(of_collections)
		AS d(id bigint, images bigint, objects bigint, bytes bigint, labeled bigint, empty bigint, unlabeled bigint)
	WHERE c.id = d.id;
	UPDATE classes k SET labels = k.labels + d.labels
	FROM jsonb_to_recordset(of_classes) AS d(id bigint, labels bigint) WHERE k.id = d.id;
	RETURN NULL;
END
$$;
