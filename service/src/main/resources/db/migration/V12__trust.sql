-- A message whose codec could not be run when it came waits to be read.
alter table message drop constraint message_state_check;
alter table message add constraint message_state_check
    check (state in ('read', 'unreadable', 'unclaimed', 'deferred', 'duplicate', 'trial', 'made'));
create index message_deferred on message (received, id) where state = 'deferred';

-- What is kept past its day has tables of its own: of all that came before the first day there is. Nothing that is said to
-- come later is taken in there, so a day's table can always be made.
do $$
declare
    kept  text;
    what  text;
    first date;
    day   date;
begin
    foreach what in array array['message', 'attempt', 'outcome'] loop
        kept := what || '_kept';
        execute format('alter table %I detach partition %I', what, kept);
        select min(to_date(right(c.relname, 8), 'YYYYMMDD')) into first
        from pg_inherits i join pg_class c on c.oid = i.inhrelid join pg_class p on p.oid = i.inhparent
        where p.relname = what and c.relname ~ '_[0-9]{8}$';
        first := coalesce(first, (now() at time zone 'UTC')::date - 1);
        -- A device's clock that was ahead put it there.
        for day in execute format('select distinct (received at time zone ''UTC'')::date from %I where received >= %L',
                                  kept, first::timestamp at time zone 'UTC') loop
            execute format('create table if not exists %I partition of %I for values from (%L) to (%L)',
                           what || '_' || to_char(day, 'YYYYMMDD'), what,
                           day::timestamp at time zone 'UTC', (day + 1)::timestamp at time zone 'UTC');
        end loop;
        execute format('with moved as (delete from %I where received >= %L returning *) insert into %I select * from moved',
                       kept, first::timestamp at time zone 'UTC', what);
        execute format('alter table %I attach partition %I for values from (minvalue) to (%L)',
                       what, kept, first::timestamp at time zone 'UTC');
    end loop;
end $$;

-- The message that a lane is making of what it took of a key: what was merged into it is accounted for.
alter table memory add column making uuid;
create index memory_making on memory (making) where making is not null;

-- The time in a UUID of version 7 (RFC 9562).
create function uuid_time(id uuid) returns timestamptz language sql immutable parallel safe as
$$ select timestamptz 'epoch' + ('x' || left(replace(id::text, '-', ''), 12))::bit(48)::bigint * interval '1 millisecond' $$;

-- Up to where each node's log of acknowledgements has been written down here.
create table acknowledgement_log (
    log             uuid        primary key,
    position        bigint      not null,
    at              timestamptz not null
);

-- Several nodes hear a device: each adds what it heard to what is there, and reads what others wrote since.
update device set life = null;
alter table device add column life_written timestamptz;
create index device_life_written on device (life_written);

-- How many dead letters there are, as changes that add up to it (see backlog).
create table dead_count (
    lane            text        not null,
    outlet          text        not null,
    cause           text        not null,
    letters         bigint      not null
);

create function dead_grows() returns trigger language plpgsql as $$
begin
    insert into dead_count select lane, outlet, cause, count(*) from changed
    where dropped_until is null group by lane, outlet, cause;
    return null;
end $$;

create function dead_shrinks() returns trigger language plpgsql as $$
begin
    insert into dead_count select lane, outlet, cause, -count(*) from changed
    where dropped_until is null group by lane, outlet, cause;
    return null;
end $$;

create function dead_changes() returns trigger language plpgsql as $$
begin
    insert into dead_count
    select lane, outlet, cause, sum(n) from (
        select lane, outlet, cause, -count(*) as n from before where dropped_until is null group by lane, outlet, cause
        union all
        select lane, outlet, cause, count(*) from after where dropped_until is null group by lane, outlet, cause) c
    group by lane, outlet, cause having sum(n) != 0;
    return null;
end $$;

create trigger dead_letter_grows after insert on dead_letter
    referencing new table as changed for each statement execute function dead_grows();
create trigger dead_letter_shrinks after delete on dead_letter
    referencing old table as changed for each statement execute function dead_shrinks();
create trigger dead_letter_changes after update on dead_letter
    referencing old table as before new table as after for each statement execute function dead_changes();

insert into dead_count select lane, outlet, cause, count(*) from dead_letter
where dropped_until is null group by lane, outlet, cause;

create index dead_letter_of_group on dead_letter (lane, outlet, cause, died) where dropped_until is null;
create index dead_letter_by_time on dead_letter (died, delivery) where dropped_until is null;
create index dead_letter_dropped on dead_letter (dropped_until) where dropped_until is not null;

-- Pages of a quiet inlet or lane, and of what is rare, must not walk through all days.
create index message_of_inlet on message (inlet, received, id);
create index message_of_lanes on message using gin (lanes);
create index message_duplicate on message (received, id) where state = 'duplicate';
create index message_unrouted on message (received, id) where state = 'read' and lanes = '{}';
create index message_of_sort on message (sort, received, id) where sort != 'reading';
create index message_simulated on message (received, id) where simulated;
drop index message_not_read;
create index message_not_read on message (state, received, id) where state in ('unreadable', 'unclaimed');
