-- What is kept of a result are its numbers, in a file; words and figures are made when it is read.
-- Those of earlier programs are out of date, and computed when somebody looks.
update results set hash = '';
alter table results drop column body;
drop index results_by_drawing;
alter table results drop column drawing_key;
alter table results add column numbers text not null default '';
alter table results add column pictured boolean not null default false;
