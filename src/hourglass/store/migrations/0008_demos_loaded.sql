-- Demos that were loaded once: one that somebody deleted is not loaded again.
create table demos_loaded (
    demo text primary key,
    loaded_at timestamptz not null default now()
);
insert into demos_loaded (demo) select distinct demo from studies where demo is not null;
