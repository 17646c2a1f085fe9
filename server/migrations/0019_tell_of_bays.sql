-- Every server process hears that bays were made, changed or deleted by another one; it then reads them.
CREATE FUNCTION tell_of_bays() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM pg_notify('prandel_bays', '');
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER bays_told AFTER INSERT OR UPDATE OR DELETE ON bays FOR EACH STATEMENT EXECUTE FUNCTION tell_of_bays();
