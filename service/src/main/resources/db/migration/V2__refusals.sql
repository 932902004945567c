-- Calls that inlets refused, the newest of each inlet; of addresses that are no inlet's, the inlet is empty.
create table refusal (
    number bigint generated always as identity primary key,
    inlet text not null,
    at timestamptz not null,
    node text not null,
    remote text not null,
    address text not null,
    code text not null,
    slip text not null,
    text text not null,
    fields jsonb not null
);
create index refusal_of_inlet on refusal (inlet, number);

-- How many there were of each slip. Since: when the first of them came, after a day without any.
create table refusal_count (
    inlet text not null,
    slip text not null,
    count bigint not null,
    since timestamptz not null,
    last timestamptz not null,
    primary key (inlet, slip)
);
