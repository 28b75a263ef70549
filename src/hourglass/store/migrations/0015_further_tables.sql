-- A data extract may be of a further table of the study: dated records or periods of its subjects.
alter table exports add column table_name text not null default '';
