CREATE TABLE "small_cutouts" (
	"object_id" bigint PRIMARY KEY NOT NULL,
	"picture" "bytea" NOT NULL
);
--> statement-breakpoint
ALTER TABLE "small_cutouts" ADD CONSTRAINT "small_cutouts_object_id_objects_id_fk" FOREIGN KEY ("object_id") REFERENCES "public"."objects"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
-- Objects of all images that were looked at before are cut out small.
UPDATE "images" SET "learned" = false WHERE "removed_at" IS NULL AND "object_count" > 0;
