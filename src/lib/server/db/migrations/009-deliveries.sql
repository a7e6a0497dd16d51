-- What was printed from what, what its stems go into where they are opened as a session, and how each file looks.

alter table print_job add column about jsonb;
alter table print_job add column onward jsonb;
alter table print_file add column source_id text not null default '';
alter table print_file add column title text not null default '';
alter table print_file add column made text not null default '';
alter table print_file add column shape jsonb;
