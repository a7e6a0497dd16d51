-- Sessions as things: when each was last changed, and since when it lies in the bin.

alter table session add column changed_at timestamptz not null default now();
alter table session add column removed_at timestamptz;
update session set changed_at = greatest(created_at, opened_at);
