-- VCAs as a kind of channel, what they hold, link groups, and what a level at −∞ was before.

alter table channel drop constraint kind_fits;
alter table channel add constraint kind_fits check ("kind" in ('track', 'bus', 'return', 'mix', 'cue', 'key', 'vca'));
alter table channel add column last_db double precision constraint last_db_fits check (("last_db" >= -120 or "last_db" = '-infinity') and "last_db" <= 12);
alter table settings add column links_paused boolean not null default false;
alter table send add column last_db double precision constraint last_db_fits check (("last_db" >= -120 or "last_db" = '-infinity') and "last_db" <= 12);

create table "vca_member" (
  session_id text not null references session on delete cascade,
  "vca_id" text not null,
  "channel_id" text not null,
  primary key (session_id, "vca_id", "channel_id"),
  foreign key (session_id, "vca_id") references "channel" deferrable initially deferred,
  foreign key (session_id, "channel_id") references "channel" deferrable initially deferred
);

create table "link" (
  session_id text not null references session on delete cascade,
  "id" text not null,
  "name" text not null constraint name_fits check ("name" <> '' and char_length("name") <= 120),
  "badge" text not null constraint badge_fits check ("badge" <> '' and char_length("badge") <= 8),
  "attributes" jsonb not null,
  "mode" text not null constraint mode_fits check ("mode" in ('difference', 'alike')),
  "active" boolean not null,
  "shortcut" text not null constraint shortcut_fits check ("shortcut" ~ '^$|^((Ctrl|Alt|Shift|Meta)[+])*[^ ]{1,12}$'),
  "position" double precision not null,
  primary key (session_id, "id")
);

create table "link_member" (
  session_id text not null references session on delete cascade,
  "link_id" text not null,
  "channel_id" text not null,
  "mirrored" boolean not null,
  primary key (session_id, "link_id", "channel_id"),
  foreign key (session_id, "link_id") references "link" deferrable initially deferred,
  foreign key (session_id, "channel_id") references "channel" deferrable initially deferred
);

