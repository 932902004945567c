-- How much lanes owe, as changes that add up to it: to count a long backlog takes as long as the backlog is. Written where
-- the rows are, so that no statement can forget to; changes of one lane are added up every so often (see Backlog).
create table backlog (
    lane     text   not null,
    outlet   text   not null,
    messages bigint not null
);

create function backlog_grows() returns trigger language plpgsql as $$
begin
    insert into backlog select lane, outlet, count(*) from changed group by lane, outlet;
    return null;
end $$;

create function backlog_shrinks() returns trigger language plpgsql as $$
begin
    insert into backlog select lane, outlet, -count(*) from changed group by lane, outlet;
    return null;
end $$;

create function backlog_moves() returns trigger language plpgsql as $$
begin
    insert into backlog values (old.lane, old.outlet, -1), (new.lane, new.outlet, 1);
    return null;
end $$;

create trigger owed_grows after insert on owed
    referencing new table as changed for each statement execute function backlog_grows();
create trigger owed_shrinks after delete on owed
    referencing old table as changed for each statement execute function backlog_shrinks();
create trigger owed_moves after update of lane, outlet on owed
    for each row when (old.lane != new.lane or old.outlet != new.outlet) execute function backlog_moves();

insert into backlog select lane, outlet, count(*) from owed group by lane, outlet;

-- Finds the oldest that a lane owes: ids of messages begin with when they came (RFC 9562, version 7).
create index owed_of_lane on owed (lane, outlet, message);

-- To vacuum takes a walk through all of the indexes: the longer they are, the more must be worth it.
alter table owed set (autovacuum_vacuum_scale_factor = 0.1, autovacuum_analyze_scale_factor = 0.1);
