-- Roles, what a person has set, hidden and resting channels, hues in between, dividers, saved sets of what is shown, loudness.

alter table channel add column role text not null default '';
alter table channel add column by_hand text not null default '';
alter table channel add column hidden boolean not null default false;
alter table channel add column resting boolean not null default false;
alter table channel drop constraint channel_colour_check;
alter table channel alter column colour type double precision;
alter table channel add constraint channel_colour_check check (colour >= 0 and colour < 12);

alter table media add column loudness jsonb;
alter table clip add column side text not null default 'both' check (side in ('both', 'left', 'right'));

create table divider (
  session_id text not null references session on delete cascade,
  id text not null,
  caption text not null,
  position double precision not null,
  primary key (session_id, id)
);

create table showing (
  session_id text not null references session on delete cascade,
  id text not null,
  number integer not null check (number between 1 and 9),
  name text not null,
  ids jsonb,
  filter jsonb,
  primary key (session_id, id)
);

-- What belongs to the installation and not to one session: sorting rules, templates.
create table library (
  kind text not null,
  name text not null,
  value jsonb not null,
  changed_at timestamptz not null default now(),
  primary key (kind, name)
);
