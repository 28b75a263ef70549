-- name: add_extract
insert into exports (
    study_id, name, sha256, table_sha256, size, row_count, how_read, recipe, evidence, sheets,
    read_at, table_name, accepted_at
) values (
    %(id)s, %(name)s, %(sha256)s, %(table_sha256)s, %(size)s, %(row_count)s, %(how_read)s,
    %(recipe)s, %(evidence)s, %(sheets)s, coalesce(%(read_at)s, now()), %(table)s,
    case when not %(waiting)s then now() end
)
returning id;

-- name: add_columns
insert into columns (export_id, position, name, kind)
select %(extract)s, place - 1, name, kind
from unnest(%(names)s::text[], %(kinds)s::text[]) with ordinality as given (name, kind, place);

-- name: find_extracts
-- All columns, since databases of earlier versions have fewer when they are brought up to date.
select *, accepted_at is not null as accepted from exports where study_id = %(id)s order by id;

-- name: identity
select id from identity;

-- name: files_of_extracts
select sha256 as name from exports union select table_sha256 from exports;

-- name: accept_extract
update exports set accepted_at = coalesce(accepted_at, now())
where id = %(extract)s and study_id = %(id)s
returning id;

-- name: forget_waiting_extract
delete from exports where study_id = %(id)s and accepted_at is null;

-- name: every_extract
select s.name as study, e.name, e.sha256, e.table_sha256, e.recipe
from exports e join studies s on s.id = e.study_id order by s.created_at, e.id;
