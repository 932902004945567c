-- Tokens that credentials were exchanged for, sealed, shared by all nodes.
create table access_token (
    credential  text        primary key,
    token       bytea,
    expires     timestamptz,
    -- asks for the next token, without a person; null if there is none
    refresh     bytea,
    scope       text,
    refreshed   timestamptz,
    -- why there is none: later, blocked or revoked; null if nothing went wrong last
    failure     text,
    reason      text,
    next_try    timestamptz,
    -- the node that asks for the next one, so that no other does
    node        uuid,
    node_until  timestamptz
);

-- Links by which owners consent. The link and the state that comes back are kept as digests.
create table grant_link (
    link        bytea       primary key,
    credential  text        not null,
    made        timestamptz not null,
    made_by     text        not null,
    until       timestamptz not null,
    state       bytea       unique,
    -- proves that whoever comes back is who went (RFC 7636), sealed
    verifier    bytea,
    used        timestamptz
);
