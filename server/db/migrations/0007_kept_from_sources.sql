ALTER TABLE "classes" ADD COLUMN "pairs" jsonb;--> statement-breakpoint
ALTER TABLE "classes" ADD COLUMN "supercategory" text;--> statement-breakpoint
ALTER TABLE "classes" ADD COLUMN "source_id" text;--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "licence" jsonb;--> statement-breakpoint
ALTER TABLE "version_sources" ADD COLUMN "name" text;--> statement-breakpoint
ALTER TABLE "version_sources" ADD COLUMN "delivery" text;