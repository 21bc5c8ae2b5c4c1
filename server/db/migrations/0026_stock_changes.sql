CREATE TABLE "stock_changes" (
	"collection_id" bigint NOT NULL,
	"revision" bigint NOT NULL,
	"image_ids" bigint[] NOT NULL
);
--> statement-breakpoint
DROP INDEX "images_by_change";--> statement-breakpoint
ALTER TABLE "stock_changes" ADD CONSTRAINT "stock_changes_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "stock_changes_by_revision" ON "stock_changes" USING btree ("collection_id","revision");--> statement-breakpoint
ALTER TABLE "images" DROP COLUMN "changed_revision";