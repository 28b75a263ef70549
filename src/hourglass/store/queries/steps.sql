-- name: find_steps
select id, body, decision_id from step_bodies where id = any(%(steps)s);

-- name: add_step_body
insert into step_bodies (study_id, decision_id, body) values (%(id)s, %(decision)s, %(body)s)
returning id;
