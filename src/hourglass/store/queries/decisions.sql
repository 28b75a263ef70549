-- name: add_decision
insert into decisions (
    study_id, stage, about, choice, sentence, reason, before, after, undoes, redoes, withdraws,
    made_at
)
select s.id, %(stage)s, %(about)s, %(choice)s, %(sentence)s, %(reason)s, %(before)s, %(after)s,
    %(undoes)s, %(redoes)s, %(withdraws)s, coalesce(%(made_at)s, now())
from studies s where s.id = %(id)s and s.deleted_at is null
returning id;

-- name: keep_decided
update decisions set state = %(state)s where id = %(decision)s;

-- name: find_decisions
select id, stage, about, choice, sentence, reason, before, after, undoes, redoes, withdraws,
    made_at, state is not null as whole
from decisions where study_id = %(id)s and id > %(since)s and id <= %(until)s order by id;

-- name: find_decided
select state from decisions where study_id = %(id)s and id = %(decision)s;

-- name: find_last_with_export
select state from decisions
where study_id = %(id)s and state ->> 'export' = %(export)s
order by id desc limit 1;
