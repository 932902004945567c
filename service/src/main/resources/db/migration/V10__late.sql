-- Messages that came after what they belong to was closed, and go on as they are, marked as late.
alter table owed add column late boolean not null default false;
alter table dead_letter add column late boolean not null default false;
