CREATE TABLE "check_dismissals" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "check_dismissals_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"collection_id" bigint NOT NULL,
	"key" text NOT NULL,
	"image_id" bigint,
	"mark" text NOT NULL,
	"reason" text NOT NULL,
	"actor" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "check_thresholds" (
	"collection_id" bigint NOT NULL,
	"code" text NOT NULL,
	"value" double precision NOT NULL,
	CONSTRAINT "check_thresholds_collection_id_code_pk" PRIMARY KEY("collection_id","code")
);
--> statement-breakpoint
CREATE TABLE "stocktakes" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "stocktakes_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"collection_id" bigint NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"images" integer NOT NULL,
	"counts" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "check_dismissals" ADD CONSTRAINT "check_dismissals_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "check_dismissals" ADD CONSTRAINT "check_dismissals_image_id_images_id_fk" FOREIGN KEY ("image_id") REFERENCES "public"."images"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "check_thresholds" ADD CONSTRAINT "check_thresholds_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stocktakes" ADD CONSTRAINT "stocktakes_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "dismissals_of_collection" ON "check_dismissals" USING btree ("collection_id");--> statement-breakpoint
CREATE INDEX "dismissals_of_image" ON "check_dismissals" USING btree ("image_id");--> statement-breakpoint
CREATE INDEX "stocktakes_of_collection" ON "stocktakes" USING btree ("collection_id","id");