-- The stages that somebody has opened: a report prints no result that nobody asked for.

create table opened_stages (
    study_id uuid not null references studies on delete cascade,
    stage text not null,
    opened_at timestamptz not null default now(),
    primary key (study_id, stage)
);

-- Which stages were opened before was not kept; what was computed is taken for seen.
insert into opened_stages (study_id, stage) select study_id, stage from results;

-- A caution is now called what the field calls it; one that was accepted stays accepted.
update decisions set about = 'few at risk' where about = 'few followed';

-- Which stages there are is the program's to say, in one place.
alter table statements drop constraint if exists statements_stage_check;
alter table decisions drop constraint if exists decisions_stage_check;
alter table results drop constraint if exists results_stage_check;
