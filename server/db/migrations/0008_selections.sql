CREATE TABLE "near_pairs" (
	"image_id" bigint NOT NULL,
	"other_id" bigint NOT NULL,
	CONSTRAINT "near_pairs_image_id_other_id_pk" PRIMARY KEY("image_id","other_id")
);
--> statement-breakpoint
CREATE TABLE "saved_selections" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "saved_selections_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"collection_id" bigint NOT NULL,
	"name" text NOT NULL,
	"where_text" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"created_by" text NOT NULL,
	CONSTRAINT "selection_name_once" UNIQUE("collection_id","name")
);
--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "findings" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "near_pairs" ADD CONSTRAINT "near_pairs_image_id_images_id_fk" FOREIGN KEY ("image_id") REFERENCES "public"."images"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "near_pairs" ADD CONSTRAINT "near_pairs_other_id_images_id_fk" FOREIGN KEY ("other_id") REFERENCES "public"."images"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "saved_selections" ADD CONSTRAINT "saved_selections_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "near_pairs_by_other" ON "near_pairs" USING btree ("other_id");--> statement-breakpoint
-- What a text reads as, as core/selection/scalars.ts has it: a number (a percentage divided by a hundred) or null.
CREATE FUNCTION selection_number(value text) RETURNS float8 LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
	SELECT CASE WHEN length(value) <= 40 AND value ~ '^[+-]?(\d+\.?\d*|\.\d+)%?$'
		THEN rtrim(value, '%')::float8 / CASE WHEN value LIKE '%\%' THEN 100 ELSE 1 END END
$$;--> statement-breakpoint
-- The moment at which the day, minute or second that a text names begins: milliseconds since 1970, UTC; null where it names none.
CREATE FUNCTION selection_moment(value text) RETURNS int8 LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
	SELECT CASE WHEN value ~ '^(?!00)\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])(T([01]\d|2[0-3]):[0-5]\d(:[0-5]\d)?Z?)?$'
			AND substr(value, 9, 2)::int <= extract(day FROM make_date(substr(value, 1, 4)::int, substr(value, 6, 2)::int, 1) + interval '1 month - 1 day')
		THEN (extract(epoch FROM make_timestamp(substr(value, 1, 4)::int, substr(value, 6, 2)::int, substr(value, 9, 2)::int,
			coalesce(nullif(substr(value, 12, 2), ''), '0')::int, coalesce(nullif(substr(value, 15, 2), ''), '0')::int,
			CASE WHEN substr(value, 17, 1) = ':' THEN substr(value, 18, 2)::float8 ELSE 0 END)) * 1000)::int8 END
$$;
