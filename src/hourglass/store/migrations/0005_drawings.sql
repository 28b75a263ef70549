-- The whole figure of a result, kept beside it as it was packed: pressing it would take longer than it saves.
alter table results add column drawing_key text not null default '';
alter table results add column drawing bytea not null default '';
alter table results alter column drawing set storage external;
create index results_by_drawing on results (drawing_key) where drawing_key <> '';

-- How the figure of each view of a study is printed.
create table figure_settings (
    study_id uuid not null references studies on delete cascade,
    view text not null check (length(view) <= 100),
    settings jsonb not null,
    primary key (study_id, view)
);
