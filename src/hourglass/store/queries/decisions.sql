-- name: add_decision
insert into decisions (study_id, stage, about, choice, sentence, reason)
values (%(id)s, %(stage)s, %(about)s, %(choice)s, %(sentence)s, %(reason)s)
returning id;

-- name: find_decisions
select id, stage, about, choice, sentence, reason, made_at, withdrawn_at
from decisions where study_id = %(id)s order by id;

-- name: withdraw_decision
update decisions set withdrawn_at = now()
where id = %(decision)s and study_id = %(id)s and withdrawn_at is null
returning id;
