-- What senders said of fields themselves: their type, unit and more.
create table field_description (
    inlet      text        not null,
    name       text        not null,
    type       text,
    unit       text,
    properties text        not null default '{}',
    told       timestamptz not null,
    primary key (inlet, name)
);
