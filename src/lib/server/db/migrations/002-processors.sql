-- More processors with key inputs, the input tap, mono sends and their own pan, trims, recordings of more than two channels.

alter table channel add column trim_db double precision not null default 0 check (trim_db <= 12);
alter table channel add column polarity boolean not null default false;

alter table send add column mono boolean not null default false;
alter table send add column pan double precision check (pan between -100 and 100);
alter table send drop constraint send_tap_check;
alter table send add constraint send_tap_check check (tap in ('input', 'pre', 'post'));

alter table "insert" add column key_id text;
alter table "insert" add column key_tap text not null default 'post' check (key_tap in ('input', 'pre', 'post'));
alter table "insert" add constraint insert_key_fkey
  foreign key (session_id, key_id) references channel deferrable initially deferred;
alter table "insert" drop constraint insert_type_check;
alter table "insert" add constraint insert_type_check check (type in ('eq', 'comp', 'limiter', 'trim', 'delay', 'reverb'));

alter table media add column origin jsonb;
alter table media drop constraint media_channels_check;
alter table media add constraint media_channels_check check (channels between 1 and 256);
alter table clip add column channel integer not null default 0 check (channel >= 0);

alter table settings add column zero bigint not null default 0 check (zero >= 0);

-- Batch ids outlive what the batches changed.
alter table batch alter column changes drop not null;
