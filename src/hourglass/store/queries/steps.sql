-- name: find_steps
select b.id, b.body, b.decision_id, p.active
from step_places p
    join cuts c on c.id = p.cut_id and c.revision = p.revision
    join step_bodies b on b.id = p.step_id
where p.cut_id = %(cut)s order by p.position;

-- name: lock_cut
select id, revision from cuts where id = %(cut)s for update;

-- name: forget_later_revisions
delete from revisions where cut_id = %(cut)s and revision > %(revision)s;

-- name: add_revision
insert into revisions (cut_id, revision, what) values (%(cut)s, %(revision)s, %(what)s);

-- name: add_step_body
insert into step_bodies (cut_id, decision_id, body)
values (%(cut)s, %(decision)s, %(body)s) returning id;

-- name: add_place
insert into step_places (cut_id, revision, position, step_id, active)
values (%(cut)s, %(revision)s, %(position)s, %(step)s, %(active)s);

-- name: go_to_revision
update cuts set revision = %(revision)s where id = %(cut)s;

-- name: has_revision
select 1 as there from revisions where cut_id = %(cut)s and revision = %(revision)s;

-- name: settle_decisions
-- A decision stands while a step that carries it out is in the current revision.
update decisions d set withdrawn_at = case
    when exists (
        select 1 from step_places p
            join cuts c on c.id = p.cut_id and c.revision = p.revision
            join step_bodies b on b.id = p.step_id
        where b.decision_id = d.id and c.id = %(cut)s
    ) then null else coalesce(d.withdrawn_at, now()) end
where d.id in (select b.decision_id from step_bodies b where b.cut_id = %(cut)s);
