-- One arrival may hold many messages: it is kept as it came (state: whole), with how many there are, and each of them is a
-- message that names it.
alter table message add column whole uuid;
alter table message add column parts integer;
alter table message drop constraint message_state_check;
alter table message add constraint message_state_check
    check (state in ('read', 'unreadable', 'unclaimed', 'deferred', 'duplicate', 'trial', 'made', 'whole')) not valid;
create index message_of_whole on message (whole) where whole is not null;
