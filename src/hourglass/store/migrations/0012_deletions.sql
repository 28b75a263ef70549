-- A log of its own for studies that were deleted: it stays when they are gone for good.
create table deletions (
    id bigint generated always as identity primary key,
    study_id uuid not null,
    name text not null,
    revision bigint not null,
    actor text,
    deleted_at timestamptz not null default now(),
    restored_at timestamptz
);
create index deletions_of_study on deletions (study_id, id);
insert into deletions (study_id, name, revision, deleted_at)
select id, name, revision, deleted_at from studies where deleted_at is not null;
