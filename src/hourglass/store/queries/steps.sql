-- name: find_steps
select b.id, b.body, b.decision_id, p.active
from step_places p
    join exports c on c.id = p.export_id and c.revision = p.revision
    join step_bodies b on b.id = p.step_id
where p.export_id = %(export)s order by p.position;

-- name: lock_export
select id, revision from exports where id = %(export)s for update;

-- name: forget_later_revisions
delete from revisions where export_id = %(export)s and revision > %(revision)s;

-- name: add_revision
insert into revisions (export_id, revision, what) values (%(export)s, %(revision)s, %(what)s);

-- name: add_step_body
insert into step_bodies (export_id, decision_id, body)
values (%(export)s, %(decision)s, %(body)s) returning id;

-- name: add_place
insert into step_places (export_id, revision, position, step_id, active)
values (%(export)s, %(revision)s, %(position)s, %(step)s, %(active)s);

-- name: go_to_revision
update exports set revision = %(revision)s where id = %(export)s;

-- name: has_revision
select 1 as there from revisions where export_id = %(export)s and revision = %(revision)s;

-- name: settle_decisions
-- A decision stands while a step that carries it out is in the current revision.
update decisions d set withdrawn_at = case
    when exists (
        select 1 from step_places p
            join exports c on c.id = p.export_id and c.revision = p.revision
            join step_bodies b on b.id = p.step_id
        where b.decision_id = d.id and c.id = %(export)s
    ) then null else coalesce(d.withdrawn_at, now()) end
where d.id in (select b.decision_id from step_bodies b where b.export_id = %(export)s);
