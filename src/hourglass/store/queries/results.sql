-- name: put_result
insert into results (study_id, stage, cohort_hash, statement_hash, headline, mark, body, program)
values (
    %(id)s, %(stage)s, %(cohort_hash)s, %(statement_hash)s, %(headline)s, %(mark)s, %(body)s,
    %(program)s
)
on conflict (study_id, stage) do update set
    cohort_hash = excluded.cohort_hash,
    statement_hash = excluded.statement_hash,
    headline = excluded.headline,
    mark = excluded.mark,
    body = excluded.body,
    program = excluded.program,
    computed_at = now();

-- name: find_current_result
select body from results
where study_id = %(id)s and stage = %(stage)s and cohort_hash = %(cohort_hash)s
    and statement_hash = %(statement_hash)s and program = %(program)s;

-- name: find_headlines
select stage, cohort_hash, statement_hash, headline, mark, program
from results where study_id = %(id)s;
