-- name: figure_presets
select name, settings from figure_presets order by lower(name), name;

-- name: put_figure_preset
insert into figure_presets (name, settings) values (%(name)s, %(settings)s)
on conflict (name) do update set settings = excluded.settings;

-- name: delete_figure_preset
delete from figure_presets where name = %(name)s;
