CREATE TABLE "delivery_files" (
	"delivery_id" bigint NOT NULL,
	"path" text NOT NULL,
	"sha256" text NOT NULL,
	"bytes" bigint NOT NULL,
	CONSTRAINT "delivery_files_delivery_id_path_pk" PRIMARY KEY("delivery_id","path")
);
--> statement-breakpoint
CREATE TABLE "intake_sources" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "intake_sources_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"collection_id" bigint NOT NULL,
	"location" text NOT NULL,
	"classes" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"last_name" text DEFAULT '' NOT NULL,
	CONSTRAINT "intake_source_once" UNIQUE("collection_id","location")
);
--> statement-breakpoint
CREATE TABLE "label_changes" (
	"delivery_id" bigint NOT NULL,
	"image_id" bigint NOT NULL,
	"before" jsonb NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	CONSTRAINT "label_changes_delivery_id_image_id_pk" PRIMARY KEY("delivery_id","image_id")
);
--> statement-breakpoint
CREATE TABLE "links" (
	"sha256" text PRIMARY KEY NOT NULL,
	"url" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "source_files" (
	"source_id" bigint NOT NULL,
	"path" text NOT NULL,
	"stamp" text NOT NULL,
	"delivery_id" bigint NOT NULL,
	CONSTRAINT "source_files_source_id_path_pk" PRIMARY KEY("source_id","path")
);
--> statement-breakpoint
ALTER TABLE "deliveries" ADD COLUMN "origin" jsonb DEFAULT '{"kind":"files","folder":""}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "deliveries" ADD COLUMN "source_id" bigint;--> statement-breakpoint
ALTER TABLE "deliveries" ADD COLUMN "choices" jsonb;--> statement-breakpoint
ALTER TABLE "deliveries" ADD COLUMN "facts" jsonb;--> statement-breakpoint
ALTER TABLE "deliveries" ADD COLUMN "looked" jsonb;--> statement-breakpoint
ALTER TABLE "delivery_items" ADD COLUMN "taken_at" timestamp;--> statement-breakpoint
ALTER TABLE "delivery_items" ADD COLUMN "latitude" double precision;--> statement-breakpoint
ALTER TABLE "delivery_items" ADD COLUMN "longitude" double precision;--> statement-breakpoint
ALTER TABLE "delivery_items" ADD COLUMN "near_hash" text;--> statement-breakpoint
ALTER TABLE "delivery_items" ADD COLUMN "link" text;--> statement-breakpoint
ALTER TABLE "delivery_items" ADD COLUMN "stamp" text;--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "taken_at" timestamp;--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "latitude" double precision;--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "longitude" double precision;--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "near_hash" text;--> statement-breakpoint
ALTER TABLE "images" ADD COLUMN "labels_at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "pause_requested" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "delivery_files" ADD CONSTRAINT "delivery_files_delivery_id_deliveries_id_fk" FOREIGN KEY ("delivery_id") REFERENCES "public"."deliveries"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "intake_sources" ADD CONSTRAINT "intake_sources_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "label_changes" ADD CONSTRAINT "label_changes_delivery_id_deliveries_id_fk" FOREIGN KEY ("delivery_id") REFERENCES "public"."deliveries"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "label_changes" ADD CONSTRAINT "label_changes_image_id_images_id_fk" FOREIGN KEY ("image_id") REFERENCES "public"."images"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "source_files" ADD CONSTRAINT "source_files_source_id_intake_sources_id_fk" FOREIGN KEY ("source_id") REFERENCES "public"."intake_sources"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "source_files" ADD CONSTRAINT "source_files_delivery_id_deliveries_id_fk" FOREIGN KEY ("delivery_id") REFERENCES "public"."deliveries"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "delivery_files_by_hash" ON "delivery_files" USING btree ("sha256");--> statement-breakpoint
CREATE INDEX "source_files_by_delivery" ON "source_files" USING btree ("delivery_id");--> statement-breakpoint
ALTER TABLE "deliveries" ADD CONSTRAINT "deliveries_source_id_intake_sources_id_fk" FOREIGN KEY ("source_id") REFERENCES "public"."intake_sources"("id") ON DELETE set null ON UPDATE no action;