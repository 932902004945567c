create table device (
    key             text        primary key,
    model           text,
    facts           jsonb       not null default '{}',
    revision        integer     not null default 1,
    simulated       boolean     not null,
    first_heard     timestamptz,
    last_heard      timestamptz,
    last_message    uuid
);

-- What was known of a device at an earlier revision.
create table device_facts (
    device          text        not null,
    revision        integer     not null,
    model           text,
    facts           jsonb       not null,
    changed         timestamptz not null,
    changed_by      text        not null,
    primary key (device, revision)
);

create table setup_revision (
    revision        integer     primary key,
    adopted         timestamptz not null,
    adopted_by      text        not null,
    note            text,
    yaml            text        not null
);

create table credential (
    name            text        primary key,
    form            text        not null,
    sealed          bytea       not null,
    changed         timestamptz not null,
    changed_by      text        not null
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
