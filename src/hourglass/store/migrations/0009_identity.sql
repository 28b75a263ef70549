-- Which database this is: files that lie beside another one are not ours to take away.
create table identity (id uuid primary key default gen_random_uuid());
insert into identity default values;
