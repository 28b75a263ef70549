-- name: find_analyses
select id, stage, opened, begun from analyses where study_id = %(id)s order by id;

-- name: begin_analysis
insert into analyses (study_id, stage, begun) values (%(id)s, %(stage)s, %(begun)s)
on conflict (study_id, stage) where not begun do update set stage = excluded.stage
returning id;

-- name: open_analysis
update analyses set opened = true where id = %(analysis)s and not opened;

-- name: find_result
select body from results
where analysis_id = %(analysis)s and part = %(part)s and hash = %(hash)s;

-- name: put_result
insert into results (
    analysis_id, part, hash, headline, mark, body, drawing_key, thumbnail, revision
)
select a.id, %(part)s, %(hash)s, %(headline)s, %(mark)s, %(body)s, %(drawing_key)s,
    %(thumbnail)s, %(revision)s
from analyses a where a.id = %(analysis)s for key share
on conflict (analysis_id, part) do update set
    hash = excluded.hash,
    headline = excluded.headline,
    mark = excluded.mark,
    body = excluded.body,
    drawing_key = excluded.drawing_key,
    thumbnail = excluded.thumbnail,
    revision = excluded.revision,
    computed_at = now();

-- name: find_headlines
select r.analysis_id, r.hash, r.headline, r.mark, r.drawing_key
from results r join analyses a on a.id = r.analysis_id
where a.study_id = %(id)s and r.part = '';

-- name: has_drawing
select 1
from results r join analyses a on a.id = r.analysis_id
where a.study_id = %(study)s and r.drawing_key = %(key)s
limit 1;

-- name: find_drawings
select drawing_key from results where drawing_key <> '';

-- name: forget_result
update results r set hash = '' from analyses a
where a.id = r.analysis_id and a.study_id = %(study)s and r.drawing_key = %(key)s;
