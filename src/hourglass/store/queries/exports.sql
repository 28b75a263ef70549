-- name: add_export
insert into exports (
    study_id, name, sha256, table_sha256, size, row_count, how_read, recipe, accepted_at
) values (
    %(id)s, %(name)s, %(sha256)s, %(table_sha256)s, %(size)s, %(row_count)s, %(how_read)s,
    %(recipe)s, case when %(accepted)s then now() end
)
returning id;

-- name: change_reading
update exports set table_sha256 = %(table_sha256)s, row_count = %(row_count)s,
    how_read = %(how_read)s, recipe = %(recipe)s
where id = %(export)s
returning id;

-- name: forget_columns
delete from columns where export_id = %(export)s;

-- name: add_column
insert into columns (export_id, position, name, kind)
values (%(export)s, %(position)s, %(name)s, %(kind)s);

-- name: find_exports
select c.id, c.name, c.sha256, c.table_sha256, c.size, c.row_count, c.how_read, c.recipe,
    c.read_at, c.revision, c.accepted_at is not null as accepted, s.export_id = c.id as current,
    coalesce((select max(r.revision) from revisions r where r.export_id = c.id), 0) as last_revision
from exports c join studies s on s.id = c.study_id
where c.study_id = %(id)s order by c.id;

-- name: accept_export
update exports set accepted_at = coalesce(accepted_at, now())
where id = %(export)s and study_id = %(id)s
returning id;

-- name: make_current
update studies set export_id = %(export)s where id = %(id)s returning id;

-- name: forget_waiting_export
delete from exports where study_id = %(id)s and accepted_at is null;
