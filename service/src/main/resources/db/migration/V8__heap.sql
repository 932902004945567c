-- How much of a node's heap is in use after a full collection.
alter table spool_report add column heap_percent integer not null default 0;
