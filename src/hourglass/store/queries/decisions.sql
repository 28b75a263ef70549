-- name: add_decision
insert into decisions (
    study_id, action, reason, actor, undoes, redoes, withdraws, made_at
)
select s.id, %(action)s, %(reason)s, %(actor)s, %(undoes)s, %(redoes)s, %(withdraws)s,
    coalesce(%(made_at)s, now())
from studies s where s.id = %(id)s and s.deleted_at is null
returning id;

-- name: keep_decided
update decisions set state = %(state)s where id = %(decision)s;

-- name: find_decisions
select id, action, reason, actor, undoes, redoes, withdraws, made_at, state is not null as whole
from decisions where study_id = %(id)s and id > %(since)s and id <= %(until)s order by id;

-- name: find_decided
select state from decisions where study_id = %(id)s and id = %(decision)s;

-- name: find_last_with_extract
select state from decisions
where study_id = %(id)s and state ->> 'export' = %(export)s
order by id desc limit 1;

-- name: every_study
select id from studies;

-- name: earlier_decisions
-- Only before every entry has its action.
select id, stage, about, choice, sentence, before, after, undoes, redoes, withdraws, state
from decisions where study_id = %(id)s order by id;

-- name: put_action
update decisions set action = %(action)s where id = %(id)s;
