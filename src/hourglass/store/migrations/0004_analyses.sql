-- Analyses, so that several models and comparisons can be kept; exports, splitting a number and other
-- names as the field has them.

alter table cuts rename to exports;
alter table columns rename column cut_id to export_id;
alter table studies rename column cut_id to export_id;
alter table step_bodies rename column cut_id to export_id;
alter table revisions rename column cut_id to export_id;
alter table step_places rename column cut_id to export_id;
alter index cuts_of_study rename to exports_of_study;
alter index one_cut_waits rename to one_export_waits;
alter index bodies_of_cut rename to bodies_of_export;

-- A statement has the version it was written in; the program brings older ones up to date on reading.
create table analyses (
    id bigint generated always as identity primary key,
    study_id uuid not null references studies on delete cascade,
    stage text not null,
    name text not null default '' check (length(name) <= 200),
    position integer not null default 0,
    statement jsonb,
    needs jsonb not null default '{}',
    opened boolean not null default false,
    changed_at timestamptz not null default now()
);
create index analyses_of_study on analyses (study_id, stage, position, id);

insert into analyses (study_id, stage, statement, opened, changed_at)
select s.study_id, s.stage, s.body,
    exists (select 1 from opened_stages o where o.study_id = s.study_id and o.stage = s.stage),
    s.changed_at
from statements s;
insert into analyses (study_id, stage, opened)
select o.study_id, o.stage, true from opened_stages o
where not exists (select 1 from statements s where s.study_id = o.study_id and s.stage = o.stage);
insert into analyses (study_id, stage)
select s.id, 'prepare' from studies s
where not exists (select 1 from analyses a where a.study_id = s.id and a.stage = 'prepare');

-- Results are computed anew: what they hold has another form now, and parts of their own.
drop table results;
create table results (
    analysis_id bigint not null references analyses on delete cascade,
    part text not null default '',
    hash text not null,
    headline text not null,
    mark text not null default '',
    body bytea not null,
    computed_at timestamptz not null default now(),
    primary key (analysis_id, part)
);
drop table statements;
drop table opened_stages;

-- The step that splits a number had another name, and named its column so where nobody had.
update step_bodies set body = body || jsonb_build_object(
    'kind', 'split_number',
    'into', case when coalesce(body ->> 'into', '') = '' then (body ->> 'column') || ', cut'
        else body ->> 'into' end)
where body ->> 'kind' = 'cut_number';
