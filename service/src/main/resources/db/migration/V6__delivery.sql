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

-- What waits in each node's spool, as far as it could say, by the node's name: it is told of also when the node is gone.
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

-- Which messages were acknowledged, kept apart from the messages, by those who answer senders: ids of 16 bytes in a row.
create table acknowledged (
    minute          timestamptz not null,
    ids             bytea       not null
);
create index acknowledged_by_minute on acknowledged (minute);

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

-- Deliveries that were made again by a replay: its name, and = behind it if they go under the original key.
alter table owed add column replay text;
alter table dead_letter add column replay text;
alter table outcome add column replay text;
alter table attempt add column replay text;

-- Dead letters that are dropped can be taken back for a while.
alter table dead_letter
    add column dropped_until timestamptz,
    add column dropped_by text,
    add column undertaking uuid;

-- What people had done to many things at once: done in steps by one node, and taken over by another should that die.
create sequence undertaking_number;
create table undertaking (
    id              uuid        primary key,
    number          bigint      not null default nextval('undertaking_number'),
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

-- Messages of days that are dropped, and are owed or dead still, stay here until they are not; and here comes what
-- becomes of them then, and what comes out of a spool later than its day is kept.
create table message_kept partition of message default;
create table attempt_kept partition of attempt default;
create table outcome_kept partition of outcome default;

-- The books of days whose messages are gone.
create table balance_day (
    day             date        not null,
    what            text        not null,
    name            text        not null,
    count           bigint      not null,
    primary key (day, what, name)
);
