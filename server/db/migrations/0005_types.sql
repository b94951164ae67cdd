-- What says which rule or shape something is was called "rule" and "shape" within itself; it is "type" now.
create function pg_temp.with_type(record jsonb, earlier text) returns jsonb language sql immutable as $$
  select case when record ? earlier then (record - earlier) || jsonb_build_object('type', record -> earlier) else record end
$$;
--> statement-breakpoint
create function pg_temp.with_types(operations jsonb) returns jsonb language sql immutable as $$
  select coalesce(jsonb_agg(
    case
      when operation #> '{fields,own,rule}' ? 'rule' then jsonb_set(operation, '{fields,own,rule}', pg_temp.with_type(operation #> '{fields,own,rule}', 'rule'))
      when operation #> '{fields,shape}' ? 'shape' then jsonb_set(operation, '{fields,shape}', pg_temp.with_type(operation #> '{fields,shape}', 'shape'))
      else operation
    end order by place), operations)
  from jsonb_array_elements(operations) with ordinality as listed(operation, place)
$$;
--> statement-breakpoint
update placements set own = jsonb_set(own, '{rule}', pg_temp.with_type(own -> 'rule', 'rule')) where own -> 'rule' ? 'rule';
--> statement-breakpoint
update blocks set shape = pg_temp.with_type(shape, 'shape') where shape ? 'shape';
--> statement-breakpoint
update changes set operations = pg_temp.with_types(operations), inverse = pg_temp.with_types(inverse)
where jsonb_path_exists(operations, '$[*].fields ? (exists (@.own.rule.rule) || exists (@.shape.shape))')
  or jsonb_path_exists(inverse, '$[*].fields ? (exists (@.own.rule.rule) || exists (@.shape.shape))');
