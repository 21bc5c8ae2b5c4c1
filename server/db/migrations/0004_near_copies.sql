ALTER TABLE "delivery_items" ADD COLUMN "near_ordinal" integer;--> statement-breakpoint
ALTER TABLE "delivery_items" ADD COLUMN "near_image" bigint;