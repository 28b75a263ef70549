-- name: create_study
insert into studies (name, demo) values (%(name)s, %(demo)s) returning id;

-- name: list_studies
select s.id, s.name, s.demo, s.created_at, f.name as file_name, f.row_count
from studies s left join exports f on f.id = s.export_id
order by s.created_at, s.id;

-- name: find_study
select id, demo, revision from studies where id = %(id)s;

-- name: go_to_revision
-- The name and the export in use are those of the revision; here they save the list of studies work.
update studies set revision = %(revision)s, name = %(name)s, export_id = %(export)s
where id = %(id)s and revision = %(seen)s
returning id;

-- name: delete_study
delete from studies where id = %(id)s returning id;
