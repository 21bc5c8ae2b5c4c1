CREATE TABLE "looks_comparisons" (
	"collection_id" bigint PRIMARY KEY NOT NULL,
	"changed" bigint NOT NULL,
	"learned" bigint NOT NULL,
	"found" "bytea" NOT NULL
);
--> statement-breakpoint
ALTER TABLE "looks_comparisons" ADD CONSTRAINT "looks_comparisons_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;