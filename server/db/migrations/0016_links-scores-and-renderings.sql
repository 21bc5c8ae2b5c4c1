CREATE TABLE "package_links" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "package_links_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"package_id" bigint NOT NULL,
	"token_hash" text collate "C" NOT NULL,
	"ends_at" timestamp with time zone NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"created_by" text NOT NULL,
	CONSTRAINT "package_link_once" UNIQUE("token_hash")
);
--> statement-breakpoint
CREATE TABLE "version_scores" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "version_scores_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"version_id" bigint NOT NULL,
	"model" text NOT NULL,
	"scores" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"created_by" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "packages" ADD COLUMN "created_by" text DEFAULT 'larder' NOT NULL;--> statement-breakpoint
ALTER TABLE "version_renders" ADD COLUMN "bytes" bigint;--> statement-breakpoint
ALTER TABLE "version_renders" ADD COLUMN "made_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "versions" ADD COLUMN "faults" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "versions" ADD COLUMN "renders_dropped_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "package_links" ADD CONSTRAINT "package_links_package_id_packages_id_fk" FOREIGN KEY ("package_id") REFERENCES "public"."packages"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "version_scores" ADD CONSTRAINT "version_scores_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "package_links_by_package" ON "package_links" USING btree ("package_id");--> statement-breakpoint
CREATE INDEX "version_scores_by_version" ON "version_scores" USING btree ("version_id");--> statement-breakpoint
CREATE INDEX "version_renders_by_time" ON "version_renders" USING btree ("version_id","made_at");