-- name: find_analyses
select id, stage, opened, begun from analyses where study_id = %(id)s order by id;

-- name: begin_analysis
insert into analyses (study_id, stage, begun) values (%(id)s, %(stage)s, %(begun)s)
on conflict (study_id, stage) where not begun do update set stage = excluded.stage
returning id;

-- name: open_analysis
update analyses set opened = true where id = %(analysis)s and not opened;

-- name: find_numbers
select numbers from results
where analysis_id = %(analysis)s and part = %(part)s and hash = %(hash)s;

-- name: put_result
insert into results (
    analysis_id, part, hash, headline, mark, numbers, pictured, thumbnail, revision
)
select a.id, %(part)s, %(hash)s, %(headline)s, %(mark)s, %(numbers)s, %(pictured)s,
    %(thumbnail)s, %(revision)s
from analyses a where a.id = %(analysis)s for key share
on conflict (analysis_id, part) do update set
    hash = excluded.hash,
    headline = excluded.headline,
    mark = excluded.mark,
    numbers = excluded.numbers,
    pictured = excluded.pictured,
    thumbnail = excluded.thumbnail,
    revision = excluded.revision,
    computed_at = now();

-- name: find_headlines
select r.analysis_id, r.hash, r.headline, r.mark, r.pictured
from results r join analyses a on a.id = r.analysis_id
where a.study_id = %(id)s and r.part = '';

-- name: names_of_numbers
select numbers from results where numbers <> '';
