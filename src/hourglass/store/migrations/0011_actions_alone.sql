-- Every entry has its action: its sentences are made from that.

alter table decisions
    drop column stage,
    drop column about,
    drop column choice,
    drop column sentence,
    drop column before,
    drop column after,
    alter column action set not null;
