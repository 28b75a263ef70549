-- A decision is an action: its body says what was done, with what was before and after. What earlier
-- programs kept of it is read once more, to find the actions of their entries (store/actions.py).

alter table decisions
    add column action jsonb,
    add column actor text;
