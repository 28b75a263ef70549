-- Cuts of a study's data, steps in revisions that can be undone, and how each file is read.

alter table columns drop constraint columns_study_id_fkey;
alter table statements drop constraint statements_study_id_fkey;
alter table steps drop constraint steps_study_id_fkey;
alter table files drop constraint files_pkey;

-- A cut is an export of the study's data; one of them is current, one may wait to be accepted.
alter table files rename to cuts;
alter table cuts add column id bigint generated always as identity primary key;
alter table cuts add column recipe jsonb not null default '{}';
alter table cuts add column accepted_at timestamptz default now();
alter table cuts add column revision integer not null default 0 check (revision >= 0);
create index cuts_of_study on cuts (study_id, id);
create unique index one_cut_waits on cuts (study_id) where accepted_at is null;

alter table studies add column cut_id bigint references cuts on delete set null;
update studies s set cut_id = c.id from cuts c where c.study_id = s.id;

alter table columns add column cut_id bigint references cuts on delete cascade;
update columns k set cut_id = c.id from cuts c where c.study_id = k.study_id;
alter table columns drop constraint columns_pkey;
alter table columns drop constraint columns_study_id_name_key;
alter table columns drop column study_id;
alter table columns alter column cut_id set not null;
alter table columns add primary key (cut_id, position);
alter table columns add unique (cut_id, name);

alter table statements add foreign key (study_id) references studies on delete cascade;

-- A step's body never changes; a revision says which bodies stand where, and which are on.
alter table steps rename to step_bodies;
alter table step_bodies add column cut_id bigint references cuts on delete cascade;
update step_bodies b set cut_id = c.id from cuts c where c.study_id = b.study_id;
alter table step_bodies drop column study_id;
alter table step_bodies alter column cut_id set not null;
alter table step_bodies alter column decision_id drop not null;
create index bodies_of_cut on step_bodies (cut_id, id);

create table revisions (
    cut_id bigint not null references cuts on delete cascade,
    revision integer not null check (revision > 0),
    what text not null,
    made_at timestamptz not null default now(),
    primary key (cut_id, revision)
);

create table step_places (
    cut_id bigint not null,
    revision integer not null,
    position integer not null check (position >= 0),
    step_id bigint not null references step_bodies on delete cascade,
    active boolean not null default true,
    primary key (cut_id, revision, position),
    foreign key (cut_id, revision) references revisions on delete cascade
);

insert into revisions (cut_id, revision, what)
select distinct cut_id, 1, 'steps taken so far' from step_bodies;
insert into step_places (cut_id, revision, position, step_id)
select cut_id, 1, row_number() over (partition by cut_id order by id) - 1, id from step_bodies;
update cuts c set revision = 1 where exists (select 1 from step_bodies b where b.cut_id = c.id);
