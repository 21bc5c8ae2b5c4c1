ALTER TABLE "image_features" ADD COLUMN "measures" "bytea" DEFAULT '' NOT NULL;--> statement-breakpoint
-- What pictures are like as a whole is measured of all that were looked at before.
UPDATE "images" SET "learned" = false WHERE "removed_at" IS NULL;
