-- Spans of time on the history of an outlet or a device that people mark, look into and mend.
create sequence incident_number;
create table incident (
    id              uuid        primary key,
    number          bigint      not null unique default nextval('incident_number'),
    title           text        not null,
    outlet          text,
    device          text,
    since           timestamptz not null,
    until           timestamptz not null,
    by_whom         text        not null,
    marked          timestamptz not null,
    -- What was found by the look that goes on or ended last, and by which undertaking.
    findings        jsonb       not null,
    look            uuid,
    -- What was to be done, what was found by then, what was done, by which undertaking; null as long as nothing was begun.
    acts            jsonb,
    before          jsonb,
    acted           jsonb,
    mend            uuid,
    check ((outlet is null) != (device is null))
);

-- Which deliveries a look at an incident goes through: by the message they belong to.
create index dead_letter_by_received on dead_letter (received);
