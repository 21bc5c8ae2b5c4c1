CREATE TABLE "blob_candidates" (
	"sha256" text PRIMARY KEY NOT NULL
);
--> statement-breakpoint
CREATE TABLE "classes" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "classes_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"collection_id" bigint NOT NULL,
	"name" text NOT NULL,
	"code" text NOT NULL,
	"colour" integer NOT NULL,
	"position" integer NOT NULL,
	"keypoints" jsonb,
	"skeleton" jsonb,
	CONSTRAINT "class_name_once" UNIQUE("collection_id","name")
);
--> statement-breakpoint
CREATE TABLE "collections" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "collections_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"name" text NOT NULL,
	"band" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"created_by" text NOT NULL,
	CONSTRAINT "collections_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "deliveries" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "deliveries_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"collection_id" bigint NOT NULL,
	"name" text NOT NULL,
	"source" text NOT NULL,
	"archive" text,
	"bytes" bigint DEFAULT 0 NOT NULL,
	"status" text DEFAULT 'waiting' NOT NULL,
	"sheet" jsonb,
	"findings" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"taken" jsonb,
	"failure" text,
	"new_classes" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"created_by" text NOT NULL,
	"taken_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "delivery_items" (
	"delivery_id" bigint NOT NULL,
	"ordinal" integer NOT NULL,
	"path" text NOT NULL,
	"split" text,
	"state" text NOT NULL,
	"item" jsonb NOT NULL,
	"left_out" boolean DEFAULT false NOT NULL,
	"ready" boolean DEFAULT false NOT NULL,
	"unreadable" text,
	"sha256" text,
	"bytes" bigint,
	"width" integer,
	"height" integer,
	"orientation" integer,
	"extension" text,
	"settled_state" text,
	"objects" jsonb,
	"findings" jsonb,
	CONSTRAINT "delivery_items_delivery_id_ordinal_pk" PRIMARY KEY("delivery_id","ordinal")
);
--> statement-breakpoint
CREATE TABLE "images" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "images_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"collection_id" bigint NOT NULL,
	"delivery_id" bigint NOT NULL,
	"ordinal" integer NOT NULL,
	"sha256" text NOT NULL,
	"name" text NOT NULL,
	"bytes" bigint NOT NULL,
	"width" integer NOT NULL,
	"height" integer NOT NULL,
	"orientation" integer DEFAULT 1 NOT NULL,
	"extension" text NOT NULL,
	"split" text,
	"state" text NOT NULL,
	"object_count" integer DEFAULT 0 NOT NULL,
	"class_ids" bigint[] DEFAULT '{}' NOT NULL,
	"class_counts" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"image_class_ids" bigint[] DEFAULT '{}' NOT NULL,
	"captions" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"fields" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "image_once" UNIQUE("collection_id","sha256")
);
--> statement-breakpoint
CREATE TABLE "jobs" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"kind" text NOT NULL,
	"subject" bigint NOT NULL,
	"collection_id" bigint,
	"title" text NOT NULL,
	"status" text DEFAULT 'queued' NOT NULL,
	"done" bigint DEFAULT 0 NOT NULL,
	"total" bigint DEFAULT 0 NOT NULL,
	"message" text DEFAULT '' NOT NULL,
	"stop_requested" boolean DEFAULT false NOT NULL,
	"runs" integer DEFAULT 0 NOT NULL,
	"worker" text,
	"lease_until" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"created_by" text NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "objects" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "objects_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"image_id" bigint NOT NULL,
	"ordinal" integer NOT NULL,
	"class_id" bigint NOT NULL,
	"x" double precision NOT NULL,
	"y" double precision NOT NULL,
	"width" double precision NOT NULL,
	"height" double precision NOT NULL,
	"area" double precision NOT NULL,
	"shape" jsonb NOT NULL,
	"attributes" jsonb,
	"flags" jsonb DEFAULT '{}'::jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "packages" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "packages_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"version_id" bigint NOT NULL,
	"format" text NOT NULL,
	"status" text DEFAULT 'packing' NOT NULL,
	"file_name" text NOT NULL,
	"bytes" bigint,
	"sha256" text,
	"findings" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"failure" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "package_once" UNIQUE("version_id","format")
);
--> statement-breakpoint
CREATE TABLE "plans" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "plans_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"collection_id" bigint NOT NULL,
	"name" text NOT NULL,
	"body" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "plan_name_once" UNIQUE("collection_id","name")
);
--> statement-breakpoint
CREATE TABLE "version_sources" (
	"version_id" bigint NOT NULL,
	"sha256" text NOT NULL,
	CONSTRAINT "version_sources_version_id_sha256_pk" PRIMARY KEY("version_id","sha256")
);
--> statement-breakpoint
CREATE TABLE "versions" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "versions_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"collection_id" bigint NOT NULL,
	"plan_id" bigint,
	"number" integer,
	"name" text NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"plan" jsonb NOT NULL,
	"status" text DEFAULT 'building' NOT NULL,
	"digest" text,
	"numbers" jsonb,
	"failure" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"created_by" text NOT NULL,
	"frozen_at" timestamp with time zone,
	CONSTRAINT "version_number_once" UNIQUE("collection_id","number")
);
--> statement-breakpoint
ALTER TABLE "classes" ADD CONSTRAINT "classes_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "deliveries" ADD CONSTRAINT "deliveries_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "delivery_items" ADD CONSTRAINT "delivery_items_delivery_id_deliveries_id_fk" FOREIGN KEY ("delivery_id") REFERENCES "public"."deliveries"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "images" ADD CONSTRAINT "images_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "images" ADD CONSTRAINT "images_delivery_id_deliveries_id_fk" FOREIGN KEY ("delivery_id") REFERENCES "public"."deliveries"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "objects" ADD CONSTRAINT "objects_image_id_images_id_fk" FOREIGN KEY ("image_id") REFERENCES "public"."images"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "objects" ADD CONSTRAINT "objects_class_id_classes_id_fk" FOREIGN KEY ("class_id") REFERENCES "public"."classes"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "packages" ADD CONSTRAINT "packages_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "plans" ADD CONSTRAINT "plans_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "version_sources" ADD CONSTRAINT "version_sources_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "versions" ADD CONSTRAINT "versions_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "versions" ADD CONSTRAINT "versions_plan_id_plans_id_fk" FOREIGN KEY ("plan_id") REFERENCES "public"."plans"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "deliveries_by_collection" ON "deliveries" USING btree ("collection_id");--> statement-breakpoint
CREATE INDEX "images_by_delivery" ON "images" USING btree ("delivery_id","ordinal");--> statement-breakpoint
CREATE INDEX "images_by_class" ON "images" USING gin ("class_ids");--> statement-breakpoint
CREATE INDEX "images_by_hash" ON "images" USING btree ("sha256");--> statement-breakpoint
CREATE INDEX "jobs_by_status" ON "jobs" USING btree ("status","created_at");--> statement-breakpoint
CREATE INDEX "objects_by_image" ON "objects" USING btree ("image_id","ordinal");--> statement-breakpoint
CREATE INDEX "objects_by_class" ON "objects" USING btree ("class_id");--> statement-breakpoint
CREATE INDEX "version_sources_by_hash" ON "version_sources" USING btree ("sha256");