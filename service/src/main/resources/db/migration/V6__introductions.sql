-- How devices stand at outlets whose destinations must know them before they take their messages.
create table introduction (
    outlet    text        not null,
    device    text        not null,
    -- waiting, introducing, known, refused, removing
    state     text        not null,
    -- the step that comes next, or that was refused
    step      text,
    name      text,
    there_id  text,
    kept      text        not null default '{}',
    -- of this device's own, sealed
    secret    bytea,
    -- whether somebody else made it there
    existed   boolean     not null default false,
    -- written before the request is sent: what is found afterwards may be ours
    creating  boolean     not null default false,
    -- introduced once more, since the destination did not know it any longer; nothing was delivered since
    anew      boolean     not null default false,
    -- counts its introductions
    version   bigint      not null default 1,
    why       text,
    reason    text,
    since     timestamptz not null,
    next_at   timestamptz not null,
    attempts  integer     not null default 0,
    revision  integer     not null default 0,
    asked_by  text        not null,
    job       uuid,
    primary key (outlet, device)
);
create index introduction_due on introduction (outlet, next_at) where state in ('waiting', 'introducing', 'removing', 'refused');
create index introduction_of_job on introduction (job) where job is not null;

-- What was made at destinations, until it is removed there, and a while longer.
create table made_there (
    number    bigint      generated always as identity primary key,
    outlet    text        not null,
    device    text        not null,
    -- device, description, credential
    what      text        not null,
    name      text,
    there_id  text,
    at        timestamptz not null,
    by_whom   text        not null,
    revision  integer     not null,
    -- what a comparison found, and when; null if it was not compared
    differs   text,
    compared  timestamptz,
    removed   timestamptz,
    removed_by text
);
create unique index made_there_still on made_there (outlet, device, what) where removed is null;

-- The node that introduces devices at an outlet, and whether a person has it pause.
create table introducer (
    outlet    text        primary key,
    node      uuid,
    paused_by text,
    paused_at timestamptz
);
