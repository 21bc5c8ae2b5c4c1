DROP INDEX "images_by_class";--> statement-breakpoint
DROP INDEX "images_of_the_strip";--> statement-breakpoint
ALTER TABLE "images" DROP COLUMN "class_ids";