-- One history of a study: every change is an entry of its log, with all that was decided after it.
-- Steps in revisions of their own, statements and settings that nobody could undo go into it.

alter table decisions drop constraint if exists decisions_stage_check;
alter table decisions
    add column before text not null default '',
    add column after text not null default '',
    add column undoes bigint references decisions on delete cascade,
    add column redoes bigint references decisions on delete cascade,
    add column withdraws bigint[] not null default '{}',
    add column state jsonb;
create index decisions_by_export on decisions (study_id, (state ->> 'export'), id);
alter table studies
    add column revision bigint not null default 0,
    add column deleted_at timestamptz;

-- What the list of studies shows of a result, and the revision it was made for.
alter table results
    add column thumbnail jsonb,
    add column revision bigint not null default 0;

-- An analysis that was begun besides the first of its stage is there only while that decision stands.
alter table analyses add column begun boolean not null default false;
update analyses a set begun = true
where exists (
    select 1 from analyses o
    where o.study_id = a.study_id and o.stage = a.stage
        and (o.position, o.id) < (a.position, a.id)
);

-- What was kept so far becomes one entry for each export, that of the export in use last.
insert into decisions (study_id, stage, about, choice, sentence, withdraws, state)
select s.id, 'prepare', 'study', 'begun', 'Kept by an earlier version of the program',
    array(select d.id from decisions d
        where d.study_id = s.id and d.withdrawn_at is not null order by d.id),
    jsonb_build_object(
        'name', s.name,
        'export', e.id,
        'follow_up', coalesce((select a.statement from analyses a
            where a.study_id = s.id and a.stage = 'prepare' order by a.id limit 1), '{}'),
        'steps', coalesce((select jsonb_agg(jsonb_build_array(p.step_id, p.active) order by p.position)
            from step_places p where p.export_id = e.id and p.revision = e.revision), '[]'),
        'analyses', coalesce((select jsonb_agg(jsonb_build_object(
                'id', a.id, 'stage', a.stage, 'name', a.name, 'position', a.position,
                'body', a.statement, 'needs', a.needs, 'begun', a.begun) order by a.id)
            from analyses a where a.study_id = s.id and a.stage <> 'prepare'
                and (a.statement is not null or a.begun or a.name <> '' or a.needs <> '{}')), '[]'),
        'gone', '[]'::jsonb,
        'figures', coalesce((select jsonb_object_agg(f.view, f.settings)
            from figure_settings f where f.study_id = s.id), '{}')
    )
from studies s left join exports e on e.study_id = s.id and e.accepted_at is not null
order by s.id, (e.id is not distinct from s.export_id), e.id;
update studies s set revision = (select max(d.id) from decisions d where d.study_id = s.id);

alter table step_bodies add column study_id uuid references studies on delete cascade;
update step_bodies b set study_id = e.study_id from exports e where e.id = b.export_id;
alter table step_bodies alter column study_id set not null;
create index bodies_of_study on step_bodies (study_id, id);

-- What speaks for the way a file is read is that of the whole reading, kept with it.
alter table exports
    add column evidence jsonb not null default '[]',
    add column sheets jsonb not null default '[]';

drop table step_places;
drop table revisions;
drop table figure_settings;
alter table step_bodies drop column export_id;
alter table exports drop column revision;
alter table decisions drop column withdrawn_at;
alter table analyses
    drop column name, drop column position, drop column statement, drop column needs,
    drop column changed_at;
create index analyses_by_study on analyses (study_id, id);
create unique index first_of_stage on analyses (study_id, stage) where not begun;
