CREATE SEQUENCE "image_features_made";--> statement-breakpoint
CREATE TABLE "image_features" (
	"image_id" bigint PRIMARY KEY NOT NULL,
	"collection_id" bigint NOT NULL,
	"made" bigint DEFAULT nextval('image_features_made') NOT NULL,
	"features" "bytea" NOT NULL
);
--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "learned" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "image_features" ADD CONSTRAINT "image_features_image_id_images_id_fk" FOREIGN KEY ("image_id") REFERENCES "public"."images"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "image_features_by_making" ON "image_features" USING btree ("collection_id","made");--> statement-breakpoint
CREATE INDEX "images_not_learned" ON "images" USING btree ("collection_id","id") WHERE not "images"."learned" and "images"."removed_at" is null;