CREATE TABLE "job_words" (
	"shop_id" uuid NOT NULL,
	"word" text COLLATE "C" NOT NULL,
	"job_id" uuid NOT NULL,
	CONSTRAINT "job_words_shop_id_word_job_id_pk" PRIMARY KEY("shop_id","word","job_id")
);
--> statement-breakpoint
CREATE TABLE "record_words" (
	"shop_id" uuid NOT NULL,
	"kind" text NOT NULL,
	"word" text COLLATE "C" NOT NULL,
	"record_id" uuid NOT NULL,
	CONSTRAINT "record_words_shop_id_kind_word_record_id_pk" PRIMARY KEY("shop_id","kind","word","record_id")
);
--> statement-breakpoint
DROP INDEX "jobs_newest";--> statement-breakpoint
ALTER TABLE "job_words" ADD CONSTRAINT "job_words_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "job_words_job" ON "job_words" USING btree ("job_id","word");--> statement-breakpoint
CREATE INDEX "record_words_record" ON "record_words" USING btree ("record_id","word");--> statement-breakpoint
CREATE INDEX "jobs_opened" ON "jobs" USING btree ("shop_id",(CASE WHEN opened_at IS NULL THEN '-infinity'::timestamptz ELSE opened_at END),"id") WHERE deleted_at IS NULL;--> statement-breakpoint
CREATE INDEX "jobs_title" ON "jobs" USING btree ("shop_id","title","id") WHERE deleted_at IS NULL;--> statement-breakpoint
CREATE INDEX "jobs_vehicle_label" ON "jobs" USING btree ("shop_id","vehicle_label","id") WHERE deleted_at IS NULL;--> statement-breakpoint
CREATE INDEX "verdict_projections_verdict" ON "verdict_projections" USING btree ("shop_id","verdict","job_id");--> statement-breakpoint
CREATE INDEX "jobs_newest" ON "jobs" USING btree ("shop_id","updated_at","id") WHERE deleted_at IS NULL;--> statement-breakpoint
DROP TRIGGER jobs_search_text ON jobs;
--> statement-breakpoint
DROP FUNCTION keep_job_search_text();
--> statement-breakpoint
DROP FUNCTION job_search_text(jobs);
--> statement-breakpoint
ALTER TABLE "jobs" DROP COLUMN "search_text";
--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['job_words','record_words'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('ALTER TABLE %I FORCE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_shop ON %I USING (shop_id = nullif(current_setting(''prandel.shop'', true), '''')::uuid)', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- Words in small letters without accents, whatever the cluster's locale; formats of numbers fall into their parts.
CREATE FUNCTION search_words(said text) RETURNS SETOF text LANGUAGE sql IMMUTABLE AS $$
  SELECT DISTINCT left(word, 40) FROM regexp_split_to_table(
    regexp_replace(normalize(lower(said COLLATE "und-x-icu"), NFD), U&'[\0300-\036F]', '', 'g') COLLATE "und-x-icu",
    '[^[:alnum:]]+') AS word
  WHERE word <> ''
$$;
--> statement-breakpoint
CREATE FUNCTION keep_words_of_job(job uuid) RETURNS void LANGUAGE plpgsql AS $$
DECLARE
  j jobs;
  now_words text[];
BEGIN
  SELECT * INTO j FROM jobs WHERE id = job;
  IF NOT FOUND THEN RETURN; END IF;
  now_words := ARRAY(SELECT search_words(concat_ws(' ', j.number, j.title, j.vehicle_label,
    (SELECT concat_ws(' ', v.label, v.registration) FROM vehicles v WHERE v.id = j.vehicle_id),
    (SELECT c.name FROM customers c WHERE c.id = j.customer_id),
    (SELECT m.label FROM job_days d JOIN model_card_versions m ON m.id = d.card_version_id WHERE d.job_id = j.id),
    (SELECT q.text FROM question_versions q WHERE q.job_id = j.id ORDER BY q.n DESC LIMIT 1),
    (SELECT string_agg(s.label, ' ') FROM setups s WHERE s.job_id = j.id),
    (SELECT string_agg(concat_ws(' ', c.words, p.name, p.number), ' ')
      FROM setup_changes c LEFT JOIN parts p ON p.id = c.part_id WHERE c.job_id = j.id))));
  DELETE FROM job_words w WHERE w.job_id = job AND NOT w.word = ANY(now_words);
  INSERT INTO job_words (shop_id, word, job_id) SELECT j.shop_id, word, job FROM unnest(now_words) AS word
    ON CONFLICT DO NOTHING;
END $$;
--> statement-breakpoint
CREATE FUNCTION keep_job_words() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM keep_words_of_job(NEW.id);
  RETURN NULL;
END $$;
--> statement-breakpoint
-- Deferred: the setups of a job are written after its own row.
CREATE CONSTRAINT TRIGGER jobs_words AFTER INSERT OR UPDATE ON jobs DEFERRABLE INITIALLY DEFERRED
  FOR EACH ROW EXECUTE FUNCTION keep_job_words();
--> statement-breakpoint
-- Arguments: the kind of record. What a record is called is found in its jobs too.
CREATE FUNCTION keep_record_words() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
  row_now jsonb;
  now_words text[];
BEGIN
  IF TG_OP = 'DELETE' THEN
    DELETE FROM record_words w WHERE w.record_id = OLD.id;
    RETURN NULL;
  END IF;
  row_now := to_jsonb(NEW);
  now_words := ARRAY(SELECT search_words(concat_ws(' ',
    row_now->>'name', row_now->>'label', row_now->>'registration', row_now->>'number')));
  DELETE FROM record_words w WHERE w.record_id = NEW.id AND NOT w.word = ANY(now_words);
  INSERT INTO record_words (shop_id, kind, word, record_id) SELECT NEW.shop_id, TG_ARGV[0], word, NEW.id
    FROM unnest(now_words) AS word ON CONFLICT DO NOTHING;
  IF TG_OP = 'UPDATE' THEN
    CASE TG_ARGV[0]
      WHEN 'customer' THEN PERFORM keep_words_of_job(j.id) FROM jobs j WHERE j.customer_id = NEW.id;
      WHEN 'vehicle' THEN PERFORM keep_words_of_job(j.id) FROM jobs j WHERE j.vehicle_id = NEW.id;
      WHEN 'part' THEN PERFORM keep_words_of_job(c.job_id) FROM setup_changes c WHERE c.part_id = NEW.id;
      ELSE NULL;
    END CASE;
  END IF;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER customers_words AFTER INSERT OR UPDATE OF name OR DELETE ON customers
  FOR EACH ROW EXECUTE FUNCTION keep_record_words('customer');
--> statement-breakpoint
CREATE TRIGGER vehicles_words AFTER INSERT OR UPDATE OF label, registration OR DELETE ON vehicles
  FOR EACH ROW EXECUTE FUNCTION keep_record_words('vehicle');
--> statement-breakpoint
CREATE TRIGGER parts_words AFTER INSERT OR UPDATE OF name, number OR DELETE ON parts
  FOR EACH ROW EXECUTE FUNCTION keep_record_words('part');
--> statement-breakpoint
CREATE TRIGGER model_cards_words AFTER INSERT OR UPDATE OF label OR DELETE ON model_cards
  FOR EACH ROW EXECUTE FUNCTION keep_record_words('model-card');
--> statement-breakpoint
CREATE TRIGGER house_methods_words AFTER INSERT OR UPDATE OF name OR DELETE ON house_methods
  FOR EACH ROW EXECUTE FUNCTION keep_record_words('method');
--> statement-breakpoint
-- What is there already, shop by shop.
DO $$
DECLARE shop record;
BEGIN
  PERFORM set_config('prandel.every_shop', 'on', true);
  FOR shop IN SELECT shop_id FROM shops LOOP
    PERFORM set_config('prandel.shop', shop.shop_id::text, true);
    PERFORM keep_words_of_job(j.id) FROM jobs j;
    UPDATE customers SET name = name;
    UPDATE vehicles SET label = label;
    UPDATE parts SET name = name;
    UPDATE model_cards SET label = label;
    UPDATE house_methods SET name = name;
  END LOOP;
END $$;
