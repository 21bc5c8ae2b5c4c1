-- Whether anything counted has changed is told by a count: for EXISTS the planner takes a join that is quick to its first
-- row, and where there is none that compares every old row with every new one.
CREATE OR REPLACE FUNCTION count_images() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
	counted text := 'FROM old_rows o JOIN new_rows n ON n.id = o.id WHERE (o.removed_at, o.state, o.object_count, o.bytes, o.class_counts, o.image_class_ids)
		IS DISTINCT FROM (n.removed_at, n.state, n.object_count, n.bytes, n.class_counts, n.image_class_ids)';
	changes text := CASE TG_OP
		WHEN 'INSERT' THEN 'SELECT 1 AS sign, n.* FROM new_rows n WHERE n.removed_at IS NULL'
		WHEN 'DELETE' THEN 'SELECT -1 AS sign, o.* FROM old_rows o WHERE o.removed_at IS NULL'
		ELSE 'SELECT -1 AS sign, o.* ' || counted || ' AND o.removed_at IS NULL UNION ALL SELECT 1, n.* ' || counted || ' AND n.removed_at IS NULL'
		END;
	anything boolean;
BEGIN
	IF TG_OP = 'UPDATE' THEN
		EXECUTE 'SELECT count(*) > 0 ' || counted INTO anything;
		IF NOT anything THEN RETURN NULL; END IF;
	END IF;
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
$$;
