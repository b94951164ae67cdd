-- What every server tells the pages that are open: by whatever way a part, a kit's entry or a level's name changes. The
-- channel and the texts are those of server/services/live/announce.ts. Pictures are left out: pages take their own.
CREATE FUNCTION tell_of_kit() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM pg_notify('handy_grid', '{"kit":true}');
  RETURN NULL;
END
$$;
--> statement-breakpoint
CREATE FUNCTION tell_of_level() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM pg_notify('handy_grid', json_build_object('level', NEW.id, 'name', NEW.name, 'deleted', NEW.deleted_at IS NOT NULL)::text);
  RETURN NULL;
END
$$;
--> statement-breakpoint
CREATE TRIGGER tell_of_parts AFTER INSERT OR DELETE OR UPDATE OF
  name, kind, tags, mesh_hash, pivot_x, pivot_y, pivot_z, in_kit, kit, sockets, lamps, settles_as, position
  ON parts FOR EACH STATEMENT EXECUTE FUNCTION tell_of_kit();
--> statement-breakpoint
CREATE TRIGGER tell_of_variants AFTER INSERT OR DELETE OR UPDATE
  ON variants FOR EACH STATEMENT EXECUTE FUNCTION tell_of_kit();
--> statement-breakpoint
CREATE TRIGGER tell_of_levels AFTER UPDATE OF name, deleted_at
  ON levels FOR EACH ROW EXECUTE FUNCTION tell_of_level();
