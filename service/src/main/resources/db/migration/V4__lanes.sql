-- A delivery may be of one point of its device; null where it is of the message as a whole.
alter table owed add column point text;
alter table dead_letter add column point text;
alter table outcome add column point text;
alter table attempt
    add column point text,
    add column trial boolean not null default false;

-- What was pasted by a person for a trial is kept like a message, and counted nowhere.
alter table message drop constraint message_state_check;
alter table message add constraint message_state_check
    check (state in ('read', 'unreadable', 'unclaimed', 'duplicate', 'trial'));

-- Since when a lane is closed: the time does not count towards giving up what it owes.
create table lane_closed (
    lane            text        primary key,
    since           timestamptz not null
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

-- The secret that a rotation replaced is accepted for a while longer.
alter table credential
    add column previous bytea,
    add column previous_until timestamptz;
