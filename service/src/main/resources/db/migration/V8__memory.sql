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
    primary key (lane, key)
);
create index memory_due on memory (due) where due is not null;

-- What lanes make of several messages is a message too.
alter table message drop constraint message_state_check;
alter table message add constraint message_state_check
    check (state in ('read', 'unreadable', 'unclaimed', 'duplicate', 'trial', 'made'));

alter table outcome drop constraint outcome_fate_check;
alter table outcome add constraint outcome_fate_check check (fate in ('delivered', 'dropped', 'held back', 'merged', 'unfolded'));
alter table outcome add column into_message uuid;
create index outcome_into on outcome (into_message) where into_message is not null;

-- By which look of its owner a delivery was claimed, so that what a node claimed and never heard of can be set free.
alter table owed add column claim uuid;
