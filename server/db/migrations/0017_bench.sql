CREATE TABLE "image_times" (
	"image_id" bigint NOT NULL,
	"actor" text NOT NULL,
	"seconds" real NOT NULL,
	CONSTRAINT "image_times_image_id_actor_pk" PRIMARY KEY("image_id","actor")
);
--> statement-breakpoint
ALTER TABLE "acts" ADD COLUMN "key" uuid;--> statement-breakpoint
ALTER TABLE "image_times" ADD CONSTRAINT "image_times_image_id_images_id_fk" FOREIGN KEY ("image_id") REFERENCES "public"."images"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "acts" ADD CONSTRAINT "acts_key_unique" UNIQUE("key");