CREATE TABLE "part_answers" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "part_answers_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"collection_id" bigint NOT NULL,
	"asked" text collate "C" NOT NULL,
	"question" text NOT NULL,
	"scope" jsonb NOT NULL,
	"key" text collate "C",
	"answer" "bytea",
	"asked_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "part_asked_once" UNIQUE("collection_id","asked")
);
--> statement-breakpoint
ALTER TABLE "part_answers" ADD CONSTRAINT "part_answers_collection_id_collections_id_fk" FOREIGN KEY ("collection_id") REFERENCES "public"."collections"("id") ON DELETE cascade ON UPDATE no action;