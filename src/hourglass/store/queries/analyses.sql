-- name: find_analyses
select id, stage, name, position, statement, needs, opened
from analyses where study_id = %(id)s order by stage, position, id;

-- name: add_analysis
insert into analyses (study_id, stage, name, statement, position)
select %(id)s, %(stage)s, %(name)s, %(statement)s,
    coalesce((select max(a.position) + 1 from analyses a
        where a.study_id = %(id)s and a.stage = %(stage)s), 0)
returning id;

-- name: put_statement
update analyses set statement = %(statement)s, changed_at = now()
where id = %(analysis)s returning id;

-- name: put_follow_up
update analyses set statement = %(statement)s, changed_at = now()
where study_id = %(id)s and stage = 'prepare' returning id;

-- name: arrange_analysis
update analyses set name = %(name)s, position = %(position)s, needs = %(needs)s
where id = %(analysis)s returning id;

-- name: remove_analysis
delete from analyses where id = %(analysis)s returning id;

-- name: open_analysis
update analyses set opened = true where id = %(analysis)s and not opened;

-- name: find_result
select body from results
where analysis_id = %(analysis)s and part = %(part)s and hash = %(hash)s;

-- name: put_result
insert into results (analysis_id, part, hash, headline, mark, body, drawing_key, drawing)
select a.id, %(part)s, %(hash)s, %(headline)s, %(mark)s, %(body)s, %(drawing_key)s, %(drawing)s
from analyses a where a.id = %(analysis)s for key share
on conflict (analysis_id, part) do update set
    hash = excluded.hash,
    headline = excluded.headline,
    mark = excluded.mark,
    body = excluded.body,
    drawing_key = excluded.drawing_key,
    drawing = excluded.drawing,
    computed_at = now();

-- name: find_headlines
select r.analysis_id, r.hash, r.headline, r.mark, r.drawing_key
from results r join analyses a on a.id = r.analysis_id
where a.study_id = %(id)s and r.part = '';

-- name: find_drawing
select r.drawing
from results r join analyses a on a.id = r.analysis_id
where a.study_id = %(study)s and r.drawing_key = %(key)s
limit 1;

-- name: find_figure_settings
select settings from figure_settings where study_id = %(study)s and view = %(view)s;

-- name: put_figure_settings
insert into figure_settings (study_id, view, settings) values (%(study)s, %(view)s, %(settings)s)
on conflict (study_id, view) do update set settings = excluded.settings;
