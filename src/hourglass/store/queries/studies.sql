-- name: create_study
insert into studies (name, demo) values (%(name)s, %(demo)s) returning id;

-- name: list_studies
select s.id, s.name, s.demo, s.created_at, f.name as file_name, f.row_count
from studies s left join files f on f.study_id = s.id
order by s.created_at, s.id;

-- name: find_study
select s.id, s.name, s.demo, s.created_at from studies s where s.id = %(id)s;

-- name: lock_study
select id from studies where id = %(id)s for update;

-- name: rename_study
update studies set name = %(name)s where id = %(id)s returning id;

-- name: delete_study
delete from studies where id = %(id)s returning id;

-- name: find_file
select name, sha256, table_sha256, size, row_count, how_read, read_at
from files where study_id = %(id)s;

-- name: add_file
insert into files (study_id, name, sha256, table_sha256, size, row_count, how_read)
values (%(id)s, %(name)s, %(sha256)s, %(table_sha256)s, %(size)s, %(row_count)s, %(how_read)s);

-- name: add_column
insert into columns (study_id, position, name, kind)
values (%(id)s, %(position)s, %(name)s, %(kind)s);

-- name: put_statement
insert into statements (study_id, stage, body) values (%(id)s, %(stage)s, %(body)s)
on conflict (study_id, stage) do update set body = excluded.body, changed_at = now();

-- name: find_statements
select stage, body from statements where study_id = %(id)s;

-- name: known_demos
select distinct demo from studies where demo is not null;
