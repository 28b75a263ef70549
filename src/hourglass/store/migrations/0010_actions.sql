-- A decision is an action: its body says what was done, with what was before and after. What earlier
-- programs kept of it is read once more, to find the actions of their entries (store/actions.py).
-- As json, not jsonb, its fields keep their order, and its sentence that of what was set.

alter table decisions
    add column action json,
    add column actor text;
