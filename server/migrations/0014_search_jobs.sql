ALTER TABLE "jobs" ADD COLUMN "search_text" text DEFAULT '' NOT NULL;--> statement-breakpoint
CREATE FUNCTION job_search_text(j jobs) RETURNS text LANGUAGE sql STABLE AS $$
  SELECT lower(concat_ws(' ', j.number, j.title, j.vehicle_label,
    (SELECT concat_ws(' ', v.label, v.registration) FROM vehicles v WHERE v.id = j.vehicle_id),
    (SELECT c.name FROM customers c WHERE c.id = j.customer_id),
    (SELECT m.label FROM job_days d JOIN model_card_versions m ON m.id = d.card_version_id WHERE d.job_id = j.id),
    (SELECT q.text FROM question_versions q WHERE q.job_id = j.id ORDER BY q.n DESC LIMIT 1),
    (SELECT string_agg(s.label, ' ') FROM setups s WHERE s.job_id = j.id),
    (SELECT string_agg(c.words, ' ') FROM setup_changes c WHERE c.job_id = j.id)))
$$;
--> statement-breakpoint
CREATE FUNCTION keep_job_search_text() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE jobs SET search_text = job_search_text(jobs.*) WHERE id = NEW.id AND search_text <> job_search_text(jobs.*);
  RETURN NULL;
END $$;
--> statement-breakpoint
DO $$
DECLARE shop record;
BEGIN
  FOR shop IN SELECT shop_id FROM installation LOOP
    PERFORM set_config('prandel.shop', shop.shop_id::text, true);
    UPDATE jobs SET search_text = job_search_text(jobs.*);
  END LOOP;
END $$;
--> statement-breakpoint
-- Deferred: the setups of a job are written after its own row.
CREATE CONSTRAINT TRIGGER jobs_search_text AFTER INSERT OR UPDATE ON jobs DEFERRABLE INITIALLY DEFERRED
  FOR EACH ROW EXECUTE FUNCTION keep_job_search_text();
