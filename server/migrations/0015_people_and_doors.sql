CREATE TABLE "access_tokens" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"name" text NOT NULL,
	"token_hash" text NOT NULL,
	"scope" text NOT NULL,
	"bay_id" uuid,
	"made_by" uuid NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"last_used_at" timestamp with time zone,
	"withdrawn_at" timestamp with time zone,
	CONSTRAINT "access_tokens_shop_id" UNIQUE("shop_id","id"),
	CONSTRAINT "access_tokens_scope" CHECK ("access_tokens"."scope" IN ('read-jobs', 'upload-to-bay'))
);
--> statement-breakpoint
CREATE TABLE "one_time_links" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"token_hash" text NOT NULL,
	"purpose" text NOT NULL,
	"email" text NOT NULL,
	"role" text NOT NULL,
	"person_id" uuid,
	"made_by" uuid,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"expires_at" timestamp with time zone NOT NULL,
	"used_at" timestamp with time zone,
	CONSTRAINT "one_time_links_purpose" CHECK ("one_time_links"."purpose" IN ('invitation', 'password-reset')),
	CONSTRAINT "one_time_links_role" CHECK ("one_time_links"."role" IN ('owner', 'technician', 'viewer'))
);
--> statement-breakpoint
DROP INDEX "people_email";--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "role" text NOT NULL DEFAULT 'owner';--> statement-breakpoint
-- Who was there before there were roles could do everything; from now on a role is always given.
ALTER TABLE "people" ALTER COLUMN "role" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "version" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "removed_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "evidence" ADD COLUMN "person_id" uuid DEFAULT nullif(current_setting('prandel.person', true), '')::uuid;--> statement-breakpoint
ALTER TABLE "evidence" ADD COLUMN "token_id" uuid DEFAULT nullif(current_setting('prandel.access_token', true), '')::uuid;--> statement-breakpoint
ALTER TABLE "access_tokens" ADD CONSTRAINT "access_tokens_bay_fk" FOREIGN KEY ("shop_id","bay_id") REFERENCES "public"."bays"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "access_tokens" ADD CONSTRAINT "access_tokens_made_by_fk" FOREIGN KEY ("shop_id","made_by") REFERENCES "public"."people"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "one_time_links" ADD CONSTRAINT "one_time_links_person_fk" FOREIGN KEY ("shop_id","person_id") REFERENCES "public"."people"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "one_time_links" ADD CONSTRAINT "one_time_links_made_by_fk" FOREIGN KEY ("shop_id","made_by") REFERENCES "public"."people"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "access_tokens_token" ON "access_tokens" USING btree ("token_hash");--> statement-breakpoint
CREATE INDEX "access_tokens_shop" ON "access_tokens" USING btree ("shop_id","created_at");--> statement-breakpoint
CREATE UNIQUE INDEX "one_time_links_token" ON "one_time_links" USING btree ("token_hash");--> statement-breakpoint
CREATE INDEX "one_time_links_shop" ON "one_time_links" USING btree ("shop_id","created_at");--> statement-breakpoint
ALTER TABLE "evidence" ADD CONSTRAINT "evidence_person_fk" FOREIGN KEY ("shop_id","person_id") REFERENCES "public"."people"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "evidence" ADD CONSTRAINT "evidence_token_fk" FOREIGN KEY ("shop_id","token_id") REFERENCES "public"."access_tokens"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "people_email" ON "people" USING btree ("email") WHERE removed_at IS NULL;--> statement-breakpoint
ALTER TABLE "people" ADD CONSTRAINT "people_role" CHECK ("people"."role" IN ('owner', 'technician', 'viewer'));--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['one_time_links','access_tokens','installation'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('ALTER TABLE %I FORCE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_shop ON %I USING (shop_id = nullif(current_setting(''prandel.shop'', true), '''')::uuid)', name);
  END LOOP;
END $$;
--> statement-breakpoint
CREATE POLICY by_link ON one_time_links FOR SELECT USING (token_hash = nullif(current_setting('prandel.link', true), ''));
--> statement-breakpoint
CREATE POLICY by_token ON access_tokens FOR SELECT USING (token_hash = nullif(current_setting('prandel.token', true), ''));
--> statement-breakpoint
-- Work that runs for all shops asks which there are, and learns nothing else without naming one.
CREATE POLICY every_shop ON shops FOR SELECT USING (current_setting('prandel.every_shop', true) = 'on');
--> statement-breakpoint
DROP POLICY signing_in ON people;
--> statement-breakpoint
CREATE POLICY signing_in ON people FOR SELECT USING (removed_at IS NULL AND email = nullif(current_setting('prandel.email', true), ''));
--> statement-breakpoint
-- Who bears a session's token, in one round trip. What is announced here ends with the statement.
CREATE FUNCTION caller_of_session(digest text) RETURNS TABLE (
  shop_id uuid, shop text, person_id uuid, session_id uuid, name text, email text, role text, units jsonb
) LANGUAGE plpgsql AS $$
#variable_conflict use_column
DECLARE found_session sessions;
BEGIN
  PERFORM set_config('prandel.token', digest, true);
  SELECT * INTO found_session FROM sessions
    WHERE token_hash = digest AND expires_at > now() AND last_seen_at > now() - interval '7 days';
  IF NOT FOUND THEN RETURN; END IF;
  PERFORM set_config('prandel.shop', found_session.shop_id::text, true);
  IF found_session.last_seen_at < now() - interval '5 minutes' THEN
    UPDATE sessions SET last_seen_at = now() WHERE token_hash = digest;
  END IF;
  RETURN QUERY SELECT p.shop_id, s.name, p.id, found_session.id, p.name, p.email, p.role, p.units
    FROM people p JOIN shops s ON s.shop_id = p.shop_id
    WHERE p.id = found_session.person_id AND p.removed_at IS NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION caller_of_access_token(digest text) RETURNS TABLE (
  shop_id uuid, shop text, token_id uuid, name text, scope text, bay_id uuid
) LANGUAGE plpgsql AS $$
#variable_conflict use_column
DECLARE found_token access_tokens;
BEGIN
  PERFORM set_config('prandel.token', digest, true);
  SELECT * INTO found_token FROM access_tokens WHERE token_hash = digest AND withdrawn_at IS NULL;
  IF NOT FOUND THEN RETURN; END IF;
  PERFORM set_config('prandel.shop', found_token.shop_id::text, true);
  IF found_token.last_used_at IS NULL OR found_token.last_used_at < now() - interval '5 minutes' THEN
    UPDATE access_tokens SET last_used_at = now() WHERE token_hash = digest;
  END IF;
  RETURN QUERY SELECT s.shop_id, s.name, found_token.id, found_token.name, found_token.scope, found_token.bay_id
    FROM shops s WHERE s.shop_id = found_token.shop_id;
END $$;
