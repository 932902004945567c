-- Messages, attempts and outcomes are appended only, in a table a day. The day is that of the message's arrival, which
-- its id tells, for all three: what belongs to one message stands in one partition, and leaves with it.

create table message (
    id              uuid        not null,
    received        timestamptz not null,
    inlet           text        not null,
    state           text        not null check (state in ('read', 'unreadable')),
    reason          text,
    device          text,
    device_revision integer,
    event_time      timestamptz,
    sort            text,
    simulated       boolean     not null,
    setup_revision  integer     not null,
    lanes           text[]      not null,
    arrival         bytea       not null,
    body            bytea       not null,
    primary key (received, id)
) partition by range (received);

create index message_of_device on message (device, received);

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
    status          integer,
    next_try        timestamptz,
    setup_revision  integer     not null,
    request         bytea       not null,
    request_body    bytea       not null,
    answer          bytea
) partition by range (received);

create index attempt_of_message on attempt (message);

create table outcome (
    delivery        uuid        not null,
    message         uuid        not null,
    received        timestamptz not null,
    lane            text        not null,
    outlet          text        not null,
    fate            text        not null check (fate in ('delivered', 'dropped')),
    at              timestamptz not null,
    attempts        integer     not null,
    reason          text
) partition by range (received);

create index outcome_of_message on outcome (message);
create index outcome_by_received on outcome using brin (received) with (pages_per_range = 16);

-- The hot table: what is still owed. Rows leave it when they are settled.
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
    owner           uuid
) with (
    fillfactor = 80,
    autovacuum_vacuum_scale_factor = 0,
    autovacuum_vacuum_threshold = 20000,
    autovacuum_vacuum_cost_delay = 0,
    autovacuum_analyze_scale_factor = 0,
    autovacuum_analyze_threshold = 20000
);

create index owed_due on owed (outlet, due) where owner is null;
create index owed_of_message on owed (message);

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
    frozen          bytea
);

create index dead_letter_of_message on dead_letter (message);

-- A process at work on this database. Its owed rows are its own as long as its lease lasts.
create table node (
    id              uuid        primary key,
    started         timestamptz not null,
    lease_until     timestamptz not null
);

-- Counts by minute, kept by those who acknowledge, take and settle, apart from the tables above.
create table tally (
    minute          timestamptz not null,
    what            text        not null,
    name            text        not null,
    count           bigint      not null,
    primary key (minute, what, name)
) with (fillfactor = 50);

create table outlet_health (
    outlet          text        primary key,
    state           text        not null,
    reason          text,
    since           timestamptz not null,
    next_probe      timestamptz,
    probes          integer     not null,
    stopped_millis  bigint      not null
);
