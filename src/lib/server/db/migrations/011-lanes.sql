-- Lanes: values over time, a row for each point; and what a hand does while they play.

create table "lane" (
  session_id text not null references session on delete cascade,
  "id" text not null,
  "channel_id" text not null,
  "of" text not null constraint of_fits check ("of" in ('fader', 'faderTrim', 'pan', 'panRight', 'spread', 'mute', 'sendLevel', 'sendTrim', 'sendOn', 'param', 'bypass')),
  "target_id" text,
  "insert_id" text,
  "param" text constraint param_fits check ("param" <> '' and char_length("param") <= 80),
  "plays" boolean not null,
  primary key (session_id, "id"),
  foreign key (session_id, "channel_id") references "channel" deferrable initially deferred,
  foreign key (session_id, "target_id") references "channel" deferrable initially deferred,
  foreign key (session_id, "insert_id") references "insert" deferrable initially deferred
);

create table "point" (
  session_id text not null references session on delete cascade,
  "lane_id" text not null,
  "at" bigint not null constraint at_fits check ("at" >= 0 and "at" <= 66355200000),
  "value" double precision not null,
  "shape" text not null constraint shape_fits check ("shape" in ('hold', 'linear', 'eased')),
  primary key (session_id, "lane_id", "at"),
  foreign key (session_id, "lane_id") references "lane" deferrable initially deferred
);

alter table settings add column moves_written text not null default 'never' constraint moves_written_fits check ("moves_written" in ('never', 'held', 'stopped'));
alter table settings add column lane_grab text not null default 'refuse' constraint lane_grab_fits check ("lane_grab" in ('trim', 'write', 'refuse'));
alter table settings add column lane_glide_ms double precision not null default 200 constraint lane_glide_ms_fits check ("lane_glide_ms" >= 0 and "lane_glide_ms" <= 10000);
