-- Messages, attempts and outcomes are appended only, in a table a day. The day is that of the message's arrival, which
-- its id tells, for all three: what belongs to one message stands in one partition, and leaves with it.

create table message (
    id              uuid        not null,
    received        timestamptz not null,
    inlet           text        not null,
    -- deferred: its codec could not be run yet; trial: pasted by a person, counted nowhere; made: by a lane that combines
    -- messages, or by Holtra itself
    state           text        not null
                    check (state in ('read', 'unreadable', 'unclaimed', 'deferred', 'duplicate', 'trial', 'made')),
    reason          text,
    device          text,
    device_revision integer,
    event_time      timestamptz,
    type            text,
    simulated       boolean     not null,
    setup_revision  integer     not null,
    lanes           text[]      not null,
    arrival         bytea       not null,
    body            bytea       not null,
    sequence        bigint,
    duplicate_key   text,
    duplicate_of    uuid,
    primary key (received, id)
) partition by range (received);

-- Pages of a quiet inlet or lane, and of what is rare, must not walk through all days.
create index message_of_device on message (device, received);
create index message_of_inlet on message (inlet, received, id);
create index message_of_lanes on message using gin (lanes);
create index message_duplicates on message (duplicate_of) where duplicate_of is not null;
create index message_duplicate on message (received, id) where state = 'duplicate';
create index message_deferred on message (received, id) where state = 'deferred';
create index message_not_read on message (state, received, id) where state in ('unreadable', 'unclaimed');
create index message_unrouted on message (received, id) where state = 'read' and lanes = '{}';
create index message_of_type on message (type, received, id) where type != 'reading';
create index message_simulated on message (received, id) where simulated;

create table attempt (
    delivery        uuid        not null,
    message         uuid        not null,
    received        timestamptz not null,
    lane            text        not null,
    outlet          text        not null,
    number          integer     not null,
    at              timestamptz not null,
    micros          bigint      not null,
    verdict         text        not null,
    reason          text,
    code            text,
    next_try        timestamptz,
    setup_revision  integer     not null,
    request         bytea       not null,
    request_body    bytea       not null,
    answer          bytea,
    point           text,
    trial           boolean     not null default false,
    replay          text
) partition by range (received);

create index attempt_of_message on attempt (message);

create table outcome (
    delivery        uuid        not null,
    message         uuid        not null,
    received        timestamptz not null,
    lane            text        not null,
    outlet          text        not null,
    fate            text        not null check (fate in ('delivered', 'dropped', 'held back', 'merged', 'split')),
    at              timestamptz not null,
    attempts        integer     not null,
    reason          text,
    correction      integer     not null default 0,
    point           text,
    replay          text,
    into_message    uuid
) partition by range (received);

create index outcome_of_message on outcome (message);
create index outcome_by_received on outcome using brin (received) with (pages_per_range = 16);
create index outcome_into on outcome (into_message) where into_message is not null;

-- What is kept past its day: of all that came before the first day there is. Nothing later is taken in there, so a day's
-- table can always be made.
do $$
declare
    what  text;
    first timestamp := (now() at time zone 'UTC')::date - 1;
begin
    foreach what in array array['message', 'attempt', 'outcome'] loop
        execute format('create table %I partition of %I for values from (minvalue) to (%L)',
                       what || '_kept', what, first at time zone 'UTC');
    end loop;
end $$;

-- The time in a UUID of version 7 (RFC 9562).
create function uuid_time(id uuid) returns timestamptz language sql immutable parallel safe as
$$ select timestamptz 'epoch' + ('x' || left(replace(id::text, '-', ''), 12))::bit(48)::bigint * interval '1 millisecond' $$;

-- The hot table: what is still owed. Rows leave it when they are settled. Deliveries of one device on a lane that keeps
-- order share an order key: only the first of them may be tried. The order is that in which messages were committed.
create sequence owed_order cache 1;
create table owed (
    id              uuid        primary key,
    message         uuid        not null,
    received        timestamptz not null,
    lane            text        not null,
    outlet          text        not null,
    device          text,
    attempts        integer     not null,
    due             timestamptz not null,
    gives_up        timestamptz,
    frozen          bytea,
    reason          text,
    owner           uuid,
    -- A message delivered again after it was read differently, under a key of its own.
    correction      integer     not null default 0,
    -- Of its device; null if it is of the message as a whole.
    point           text,
    order_key       text collate "C",
    sequence        bigint      not null default nextval('owed_order'),
    -- The name of a replay, and = behind it if it goes under the original key.
    replay          text,
    -- By which look of its owner it was claimed, so that what a node claimed and never heard of can be set free.
    claim           uuid,
    -- It came after what it belongs to was closed.
    late            boolean     not null default false
) with (
    fillfactor = 80,
    -- To vacuum takes a walk through all of the indexes: the longer they are, the more must be worth it.
    autovacuum_vacuum_scale_factor = 0.1,
    autovacuum_vacuum_threshold = 20000,
    autovacuum_vacuum_cost_delay = 0,
    autovacuum_analyze_scale_factor = 0.1,
    autovacuum_analyze_threshold = 20000
);

create index owed_due on owed (outlet, due) where owner is null and order_key is null;
create index owed_of_message on owed (message);
create index owed_order_key on owed (lane, order_key, sequence) where order_key is not null;
-- Finds the oldest that a lane owes: ids of messages begin with when they came.
create index owed_of_lane on owed (lane, outlet, message);

-- How much lanes owe, as changes that add up to it: to count a long backlog takes as long as the backlog is. Written where
-- the rows are, so that no statement can forget to; changes of one lane are added up every so often.
create table backlog (
    lane            text        not null,
    outlet          text        not null,
    messages        bigint      not null
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

create table dead_letter (
    delivery        uuid        primary key,
    message         uuid        not null,
    received        timestamptz not null,
    lane            text        not null,
    outlet          text        not null,
    device          text,
    attempts        integer     not null,
    died            timestamptz not null,
    cause           text        not null,
    reason          text        not null,
    frozen          bytea,
    correction      integer     not null default 0,
    point           text,
    replay          text,
    late            boolean     not null default false,
    -- A dead letter that is dropped can be restored for a while.
    dropped_until   timestamptz,
    dropped_by      text,
    job             uuid
);

create index dead_letter_of_message on dead_letter (message);
create index dead_letter_by_received on dead_letter (received);
create index dead_letter_of_group on dead_letter (lane, outlet, cause, died) where dropped_until is null;
create index dead_letter_by_time on dead_letter (died, delivery) where dropped_until is null;
create index dead_letter_dropped on dead_letter (dropped_until) where dropped_until is not null;

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

-- The keys of arrivals that an inlet takes once, however often they are sent.
create table idempotency_key (
    inlet           text        not null,
    key             text        not null,
    message         uuid        not null,
    received        timestamptz not null,
    primary key (inlet, key)
);
create index idempotency_key_by_received on idempotency_key (received);

-- How far each inlet has read what it reads page by page.
create table inlet_cursor (
    inlet           text        primary key,
    position        text        not null,
    moved           timestamptz not null
);

-- Which node runs an inlet that runs on one node only.
create table inlet_owner (
    inlet           text        primary key,
    node            uuid        not null,
    since           timestamptz not null
);

-- What happened to inlets and outlets, the newest lines of each.
create table diary (
    number          bigint      generated always as identity primary key,
    thing           text        not null,
    name            text        not null,
    at              timestamptz not null,
    node            text        not null,
    line            text        not null,
    detail          text
);
create index diary_of on diary (thing, name, number desc);

-- A process at work on this database. Its owed rows are its own as long as its lease lasts. A lease is told by the
-- database's clock alone, and whoever finds one run out removes the node and frees its deliveries in one transaction. The
-- number of joins tells whether anybody was here that one did not see.
create sequence node_joins cache 1;
create table node (
    id              uuid        primary key,
    started         timestamptz not null,
    lease_until     timestamptz not null,
    name            text        not null default ''
);

-- Counts by minute, kept by those who acknowledge, take and settle, apart from the tables above.
create table tally (
    minute          timestamptz not null,
    what            text        not null,
    name            text        not null,
    count           bigint      not null,
    primary key (minute, what, name)
) with (fillfactor = 50);

-- Which messages were acknowledged, kept apart from the messages, by those who answer senders: ids of 16 bytes in a row.
create table acknowledged (
    minute          timestamptz not null,
    ids             bytea       not null
);
create index acknowledged_by_minute on acknowledged (minute);

-- Up to where each node's log of acknowledgements has been written down here.
create table acknowledgement_log (
    log             uuid        primary key,
    position        bigint      not null,
    at              timestamptz not null
);

-- The balance of days whose messages are gone.
create table balance_day (
    day             date        not null,
    what            text        not null,
    name            text        not null,
    count           bigint      not null,
    primary key (day, what, name)
);

-- What waits in each node's spool, as far as it could say, by the node's name, also when the node is gone.
create table spool_report (
    node            text        primary key,
    messages        bigint      not null,
    bytes           bigint      not null,
    most            bigint      not null,
    oldest          timestamptz,
    trouble         text,
    disk_free       bigint      not null,
    at              timestamptz not null
);
create table spool_minute (
    node            text        not null,
    minute          timestamptz not null,
    messages        bigint      not null,
    primary key (node, minute)
);

create table outlet_health (
    outlet          text        primary key,
    state           text        not null,
    reason          text,
    since           timestamptz not null,
    next_probe      timestamptz,
    probes          integer     not null,
    stopped_millis  bigint      not null
);

-- What was granted of an outlet's pace and quotas, shared by all nodes.
create table outlet_pace (
    outlet          text        primary key,
    free            timestamptz not null,
    day             date        not null,
    of_day          bigint      not null,
    of_month        bigint      not null
);

-- Devices whose deliveries a destination refuses for now.
create table held_device (
    outlet          text        not null,
    device          text        not null,
    reason          text        not null,
    since           timestamptz not null,
    until           timestamptz not null,
    primary key (outlet, device)
);

-- Since when a lane is closed: the time does not count towards giving up what it owes.
create table lane_closed (
    lane            text        primary key,
    since           timestamptz not null
);

create table device (
    key             text        primary key,
    model           text,
    facts           jsonb       not null default '{}',
    revision        integer     not null default 1,
    simulated       boolean     not null,
    first_heard     timestamptz,
    last_heard      timestamptz,
    last_message    uuid,
    zone            text,
    installed            timestamptz,
    barred          boolean     not null default false,
    silent_after    text,
    points          jsonb       not null default '{}',
    -- Several nodes hear a device: each adds what it heard to what is there, and reads what others wrote since.
    life            jsonb,
    life_written    timestamptz
);
create index device_life_written on device (life_written);

-- The facts of a device at an earlier revision.
create table device_facts (
    device          text        not null,
    revision        integer     not null,
    model           text,
    facts           jsonb       not null,
    changed         timestamptz not null,
    changed_by      text        not null,
    zone            text,
    installed            timestamptz,
    silent_after    text,
    points          jsonb       not null default '{}',
    primary key (device, revision)
);

-- What fields were seen on each inlet, by the model of the device that sent them.
create table field_seen (
    inlet           text        not null,
    model           text        not null,
    name            text        not null,
    kind            text        not null,
    last            text        not null,
    min             double precision,
    max             double precision,
    count           bigint      not null,
    first_seen      timestamptz not null,
    last_seen       timestamptz not null,
    primary key (inlet, model, name)
) with (fillfactor = 50);

create table setup_revision (
    revision        integer     primary key,
    adopted         timestamptz not null,
    adopted_by      text        not null,
    note            text,
    yaml            text        not null
);

-- Parts of the setup that somebody is changing and nobody has adopted yet.
create table draft (
    thing           text        not null,
    name            text        not null,
    by_whom         text        not null,
    content         text        not null,
    based_on        text        not null,
    changed         timestamptz not null,
    primary key (thing, name, by_whom)
);

create table credential (
    name            text        primary key,
    form            text        not null,
    sealed          bytea       not null,
    changed         timestamptz not null,
    changed_by      text        not null,
    -- The secret that a rotation replaced is accepted for a while longer.
    previous        bytea,
    previous_until  timestamptz
);

create table account (
    name            text        primary key,
    password_hash   text        not null,
    created         timestamptz not null
);

create table api_key (
    name            text        primary key,
    hash            bytea       not null unique,
    created         timestamptz not null,
    created_by      text        not null,
    last_used       timestamptz
);

-- What is wrong with Holtra itself, or was.
create table trouble (
    what            text        not null,
    name            text        not null,
    since           timestamptz not null,
    text            text        not null,
    message         uuid,
    cleared         timestamptz,
    primary key (what, name, since)
);
create unique index trouble_open on trouble (what, name) where cleared is null;

-- Jobs that people started: done in steps by one node, and taken over by another should that die.
create sequence job_number;
create table job (
    id              uuid        primary key,
    number          bigint      not null default nextval('job_number'),
    what            text        not null,
    terms           jsonb       not null,
    by_whom         text        not null,
    begun           timestamptz not null,
    expected        bigint,
    done            bigint      not null default 0,
    reached         text,
    state           text        not null check (state in ('running', 'done', 'failed', 'cancelled')),
    ended           timestamptz,
    note            text,
    undo_until      timestamptz,
    undone          timestamptz,
    node            uuid
);

-- Spans of time on the history of an outlet or a device that people mark, look into and mend.
create sequence incident_number;
create table incident (
    id              uuid        primary key,
    number          bigint      not null unique default nextval('incident_number'),
    title           text        not null,
    outlet          text,
    device          text,
    since           timestamptz not null,
    until           timestamptz not null,
    by_whom         text        not null,
    marked          timestamptz not null,
    -- What was found by the look that goes on or ended last, and by which job.
    findings        jsonb       not null,
    look            uuid,
    -- What was to be done, what was found by then, what was done, by which job; null as long as nothing was begun.
    acts            jsonb,
    before          jsonb,
    acted           jsonb,
    mend            uuid,
    check ((outlet is null) != (device is null))
);

-- Messages that lanes with memory took and of which it is not known yet what becomes of them.
create table remembered (
    lane            text        not null,
    key             text        not null,
    message         uuid        not null,
    received        timestamptz not null,
    zone            text        not null,
    -- Whether it is in the state of its key already.
    seen            boolean     not null default false,
    primary key (lane, key, message)
);
create index remembered_new on remembered (lane, key) where not seen;
create index remembered_of_message on remembered (message);
create index remembered_by_received on remembered (received);

-- What lanes remember of a key, and when something is to be done though nothing comes.
create table memory (
    lane            text        not null,
    key             text        not null,
    zone            text        not null,
    operation       text        not null,
    state           jsonb       not null,
    -- Of the newest message.
    device          text,
    simulated       boolean     not null default false,
    due             timestamptz,
    heard           timestamptz not null,
    -- The message that the lane is making of what it took of a key: what was merged into it is accounted for.
    making          uuid,
    primary key (lane, key)
);
create index memory_due on memory (due) where due is not null;
create index memory_making on memory (making) where making is not null;

-- What lookouts remember stands beside what lanes do, under the name lookout/NAME.

-- An alarm, from when it is raised. Its id is that of the message that tells of it.
create table alarm (
    id              uuid        primary key,
    number          bigint      generated always as identity,
    lookout         text        not null,
    key             text        not null,
    device          text,
    point           text,
    simulated       boolean     not null,
    -- When its sign came, was there long enough, and was gone; by the event times of messages.
    since           timestamptz not null,
    raised          timestamptz not null,
    cleared         timestamptz,
    cause           uuid,
    text            text        not null,
    value           double precision,
    extreme         double precision,
    extreme_at      timestamptz,
    -- Whether its message went out; it does not while it is shelved.
    told            boolean     not null,
    acknowledged    timestamptz,
    acknowledged_by text
);
create unique index alarm_open on alarm (lookout, key) where cleared is null;
create unique index alarm_number on alarm (number);
create index alarm_by_time on alarm (raised desc);
create index alarm_of_device on alarm (device, raised desc);
create index alarm_cause on alarm (cause);

-- What people did about an alarm.
create table alarm_act (
    alarm           uuid        not null references alarm on delete cascade,
    at              timestamptz not null,
    by_whom         text        not null,
    act             text        not null check (act in ('acknowledged', 'commented', 'shelved', 'unshelved')),
    text            text,
    until           timestamptz
);
create index alarm_act_of on alarm_act (alarm, at);

-- Of what nobody wants to hear for a while.
create table shelf (
    lookout         text        not null,
    key             text        not null,
    until           timestamptz not null,
    by_whom         text        not null,
    primary key (lookout, key)
);

-- Since when an inlet has listened without a break as far as is known, and when it did not listen: silence then is nobody's.
create table listening (
    inlet           text        primary key,
    at              timestamptz not null
);
create table deaf (
    inlet           text        not null,
    since           timestamptz not null,
    until           timestamptz not null,
    primary key (inlet, since)
);
