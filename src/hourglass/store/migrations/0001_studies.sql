-- Studies with their files, steps, statements, results and decisions.

create table studies (
    id uuid primary key default gen_random_uuid(),
    name text not null check (length(name) between 1 and 200),
    demo text,
    created_at timestamptz not null default now()
);

-- The bytes lie beside the database under their SHA-256; a row here says they are whole.
create table files (
    study_id uuid primary key references studies on delete cascade,
    name text not null check (length(name) between 1 and 400),
    sha256 text not null check (sha256 ~ '^[0-9a-f]{64}$'),
    table_sha256 text not null check (table_sha256 ~ '^[0-9a-f]{64}$'),
    size bigint not null check (size > 0),
    row_count bigint not null check (row_count > 0),
    how_read text not null,
    read_at timestamptz not null default now()
);

create table columns (
    study_id uuid not null references files on delete cascade,
    position integer not null check (position >= 0),
    name text not null,
    kind text not null check (kind in ('number', 'date', 'text')),
    primary key (study_id, position),
    unique (study_id, name)
);

create table statements (
    study_id uuid not null references files on delete cascade,
    stage text not null
        check (stage in ('prepare', 'estimate', 'compare', 'model', 'check', 'report')),
    body jsonb not null,
    changed_at timestamptz not null default now(),
    primary key (study_id, stage)
);

-- What people decided, in the order they did; never changed, only withdrawn.
create table decisions (
    id bigint generated always as identity primary key,
    study_id uuid not null references studies on delete cascade,
    stage text not null
        check (stage in ('prepare', 'estimate', 'compare', 'model', 'check', 'report')),
    about text not null,
    choice text not null,
    sentence text not null,
    reason text not null default '',
    made_at timestamptz not null default now(),
    withdrawn_at timestamptz
);
create index decisions_of_study on decisions (study_id, id);

-- The steps that carry out decisions; a withdrawn decision takes its steps with it.
create table steps (
    id bigint generated always as identity primary key,
    study_id uuid not null references files on delete cascade,
    decision_id bigint not null references decisions on delete cascade,
    body jsonb not null
);
create index steps_of_study on steps (study_id, id);

-- The last result of each stage, with the hashes of what it was computed from.
create table results (
    study_id uuid not null references studies on delete cascade,
    stage text not null
        check (stage in ('prepare', 'estimate', 'compare', 'model', 'check', 'report')),
    cohort_hash text not null,
    statement_hash text not null,
    headline text not null,
    mark text not null default '',
    body jsonb not null,
    program text not null,
    computed_at timestamptz not null default now(),
    primary key (study_id, stage)
);
