-- name: create_study
insert into studies (name, demo) values (%(name)s, %(demo)s) returning id;

-- name: list_studies
select s.id, s.name, s.demo, s.created_at, f.name as file_name, f.row_count
from studies s left join exports f on f.id = s.export_id
order by s.created_at, s.id;

-- name: find_study
select s.id, s.name, s.demo, s.created_at from studies s where s.id = %(id)s;

-- name: lock_study
select id from studies where id = %(id)s for update;

-- name: rename_study
update studies set name = %(name)s where id = %(id)s returning id;

-- name: delete_study
delete from studies where id = %(id)s returning id;

-- name: known_demos
select distinct demo from studies where demo is not null;
