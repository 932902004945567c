-- Channels of a device's own, in place of those of its model.
alter table device add column channels jsonb not null default '[]';
alter table device_facts add column channels jsonb not null default '[]';
