-- Settings of printed figures that are kept for all studies.
create table figure_presets (
    name text primary key check (name <> '' and length(name) <= 100),
    settings jsonb not null
);
