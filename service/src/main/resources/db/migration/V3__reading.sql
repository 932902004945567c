-- What cannot be claimed by a device, and copies of a message that came before, are kept beside what was read and what
-- could not be.
alter table message drop constraint message_state_check;
alter table message add constraint message_state_check
    check (state in ('read', 'unreadable', 'unclaimed', 'duplicate'));
alter table message
    add column sequence bigint,
    add column copy_key text,
    add column copy_of  uuid;

create index message_copies on message (copy_of) where copy_of is not null;
create index message_not_read on message (received) where state in ('unreadable', 'unclaimed');

-- A correction is a message delivered again on a lane after it was read differently, under a key of its own.
alter table owed add column correction integer not null default 0;
alter table dead_letter add column correction integer not null default 0;
alter table outcome add column correction integer not null default 0;

alter table device
    add column zone    text,
    add column born    timestamptz,
    add column barred  boolean not null default false,
    add column silent_after text,
    add column points  jsonb   not null default '{}',
    add column life    jsonb;

alter table device_facts
    add column zone    text,
    add column born    timestamptz,
    add column silent_after text,
    add column points  jsonb not null default '{}';

-- What fields were seen on each inlet, by the model of the device that sent them.
create table field_seen (
    inlet           text        not null,
    model           text        not null,
    name            text        not null,
    kind            text        not null,
    last            text        not null,
    least           double precision,
    most            double precision,
    count           bigint      not null,
    first_seen      timestamptz not null,
    last_seen       timestamptz not null,
    primary key (inlet, model, name)
) with (fillfactor = 50);
