-- name: create_study
insert into studies (name, demo) values (%(name)s, %(demo)s) returning id;

-- name: list_studies
select s.id, s.name, s.demo, s.created_at, s.revision, f.name as file_name, f.row_count,
    coalesce((
        select jsonb_agg(jsonb_build_object(
            'stage', a.stage, 'headline', r.headline, 'thumbnail', r.thumbnail,
            'current', r.revision = s.revision))
        from analyses a join results r on r.analysis_id = a.id and r.part = ''
        where a.study_id = s.id and not a.begun
    ), '[]') as results
from studies s left join exports f on f.id = s.export_id
where s.deleted_at is null
order by s.created_at, s.id;

-- name: find_study
select id, demo, revision from studies where id = %(id)s and deleted_at is null;

-- name: go_to_revision
-- The name and the export in use are those of the revision; here they save the list of studies work.
update studies set revision = %(revision)s, name = %(name)s, export_id = %(export)s
where id = %(id)s and revision = %(seen)s
returning id;

-- name: delete_study
-- Deleted studies can be brought back until the program is started some days later.
with deleted as (
    update studies set deleted_at = now()
    where id = %(id)s and revision = %(seen)s and deleted_at is null
    returning id, name, revision
)
insert into deletions (study_id, name, revision)
select id, name, revision from deleted
returning study_id as id;

-- name: restore_study
with restored as (
    update studies set deleted_at = null
    where id = %(id)s and deleted_at is not null and revision = coalesce(%(revision)s::bigint, revision)
    returning id
)
update deletions d set restored_at = now() from restored r
where d.study_id = r.id and d.restored_at is null
returning r.id;

-- name: deletions
select study_id as study, name, revision, actor, deleted_at, restored_at from deletions order by id;

-- name: demos_loaded
select demo from demos_loaded;

-- name: note_demo
insert into demos_loaded (demo) values (%(demo)s) on conflict do nothing;

-- name: purge_studies
delete from studies where deleted_at < now() - interval '7 days';

-- name: moment
select pg_export_snapshot() as moment;
