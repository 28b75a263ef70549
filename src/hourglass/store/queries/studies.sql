-- name: create_study
insert into studies (name, demo) values (%(name)s, %(demo)s) returning id;

-- name: list_studies
select s.id, s.name, s.demo, s.created_at, f.name as file_name, f.row_count
from studies s left join cuts f on f.id = s.cut_id
order by s.created_at, s.id;

-- name: find_study
select s.id, s.name, s.demo, s.created_at, s.cut_id from studies s where s.id = %(id)s;

-- name: lock_study
select id from studies where id = %(id)s for update;

-- name: rename_study
update studies set name = %(name)s where id = %(id)s returning id;

-- name: delete_study
delete from studies where id = %(id)s returning id;

-- name: put_statement
insert into statements (study_id, stage, body) values (%(id)s, %(stage)s, %(body)s)
on conflict (study_id, stage) do update set body = excluded.body, changed_at = now();

-- name: find_statements
select stage, body from statements where study_id = %(id)s;

-- name: known_demos
select distinct demo from studies where demo is not null;

-- name: open_stage
insert into opened_stages (study_id, stage) values (%(id)s, %(stage)s) on conflict do nothing;

-- name: find_opened
select stage from opened_stages where study_id = %(id)s;
