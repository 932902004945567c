-- Messages of one device on a lane that keeps order form a line: only the first of a line may be tried. What stands in no
-- line has null here. The order is that in which messages were committed.
create sequence owed_order cache 1;
alter table owed
    add column line text collate "C",
    add column place bigint not null default nextval('owed_order');

create index owed_line on owed (lane, line, place) where line is not null;
drop index owed_due;
create index owed_due on owed (outlet, due) where owner is null and line is null;

-- Nodes: a lease is told by the database's clock alone, and whoever finds one run out removes the node and sets its
-- deliveries free in one transaction. The number of joins tells whether anybody was here that one did not see.
create sequence node_joins cache 1;
alter table node add column name text not null default '';
