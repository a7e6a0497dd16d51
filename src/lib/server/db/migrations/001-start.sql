-- Sessions, their rows, their history, and print jobs. Column names are those of core/session/tables.ts in snake case.
-- There are no cascades below the session: the core lists every dependent row of a deletion itself.

create table session (
  id         text primary key,
  name       text not null,
  revision   bigint not null default 0,
  created_at timestamptz not null default now(),
  opened_at  timestamptz not null default now()
);

create table settings (
  session_id      text not null references session on delete cascade,
  id              text not null check (id = 'settings'),
  name            text not null,
  rate            integer not null check (rate > 0),
  bpm             double precision not null check (bpm > 0),
  beats_per_bar   integer not null check (beats_per_bar > 0),
  pan_law         double precision not null,
  mute_closes_pre boolean not null,
  primary key (session_id, id)
);

create table channel (
  session_id  text not null references session on delete cascade,
  id          text not null,
  kind        text not null check (kind in ('track', 'bus', 'return', 'mix')),
  name        text not null check (name <> ''),
  colour      integer not null check (colour between 0 and 11),
  position    double precision not null,
  born        integer not null,
  width       integer not null check (width in (1, 2)),
  output_id   text,
  output_pair integer check (output_pair >= 0),
  fader_db    double precision not null check (fader_db <= 12),
  pan         double precision not null check (pan between -100 and 100),
  mute        boolean not null,
  solo        boolean not null,
  solo_safe   boolean not null,
  primary key (session_id, id),
  check (output_id is null or output_pair is null),
  foreign key (session_id, output_id) references channel deferrable initially deferred
);

-- A send is one crosspoint: at most one per (source, target).
create table send (
  session_id text not null references session on delete cascade,
  source_id  text not null,
  target_id  text not null,
  level_db   double precision not null check (level_db <= 12),
  tap        text not null check (tap in ('pre', 'post')),
  "on"       boolean not null,
  primary key (session_id, source_id, target_id),
  foreign key (session_id, source_id) references channel deferrable initially deferred,
  foreign key (session_id, target_id) references channel deferrable initially deferred
);

create table "insert" (
  session_id text not null references session on delete cascade,
  id         text not null,
  channel_id text not null,
  position   double precision not null,
  type       text not null check (type in ('eq', 'reverb')),
  bypass     boolean not null,
  params     jsonb not null,
  primary key (session_id, id),
  foreign key (session_id, channel_id) references channel deferrable initially deferred
);

create table media (
  session_id text not null references session on delete cascade,
  id         text not null,
  name       text not null,
  sha256     text not null check (sha256 ~ '^[0-9a-f]{64}$'),
  rate       integer not null check (rate > 0),
  channels   integer not null check (channels in (1, 2)),
  frames     bigint not null check (frames > 0),
  encoding   text not null check (encoding in ('s16', 's24', 's32', 'f32')),
  peak_db    double precision not null,
  primary key (session_id, id)
);

create table clip (
  session_id text not null references session on delete cascade,
  id         text not null,
  channel_id text not null,
  media_id   text not null,
  start      bigint not null,
  "offset"   bigint not null,
  length     bigint not null check (length > 0),
  primary key (session_id, id),
  foreign key (session_id, channel_id) references channel deferrable initially deferred,
  foreign key (session_id, media_id) references media deferrable initially deferred
);

-- The one named history of a session: row changes, one entry per gesture, oldest first by `entry`.
create table history (
  session_id text not null references session on delete cascade,
  entry      bigint generated always as identity,
  id         text not null,
  gesture    text,
  label      text not null,
  changes    jsonb not null,
  undone     boolean not null default false,
  primary key (session_id, entry)
);

-- What each acknowledged batch did: makes retries harmless, and tells a page what it missed.
create table batch (
  session_id text not null references session on delete cascade,
  revision   bigint not null,
  id         text not null,
  changes    jsonb not null,
  primary key (session_id, revision),
  unique (session_id, id)
);

create table print (
  id          text primary key,
  session_id  text not null references session on delete cascade,
  name        text not null,
  revision    bigint not null,
  encoding    text not null check (encoding in ('s24', 'f32')),
  status      text not null check (status in ('running', 'done', 'failed', 'cancelled', 'interrupted')),
  message     text not null default '',
  rate        integer not null,
  frames      bigint not null default 0,
  peak_db     double precision not null default '-infinity',
  started_at  timestamptz not null default now(),
  finished_at timestamptz
);
