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
