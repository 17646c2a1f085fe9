-- Row-level security keeps shops apart even if a query forgets. Signing in knows no shop yet: a person is found by the
-- e-mail typed in, a session by its token, each announced in a setting of the transaction.
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['shops','people','sessions','jobs','setups','pulls','channels','files','mappings','actions'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('ALTER TABLE %I FORCE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_shop ON %I USING (shop_id = nullif(current_setting(''prandel.shop'', true), '''')::uuid)', name);
  END LOOP;
END $$;
--> statement-breakpoint
CREATE POLICY signing_in ON people FOR SELECT USING (email = nullif(current_setting('prandel.email', true), ''));
--> statement-breakpoint
CREATE POLICY by_token ON sessions FOR SELECT USING (token_hash = nullif(current_setting('prandel.token', true), ''));
