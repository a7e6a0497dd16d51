-- Cues, key tracks, pinned rows, columns of the crosspoints, patterns, the simulated interface, solo that dims.

alter table channel drop constraint channel_kind_check;
alter table channel add constraint channel_kind_check check (kind in ('track', 'bus', 'return', 'mix', 'cue', 'key'));
alter table channel add column pinned boolean not null default false;
alter table channel add column "column" double precision not null default 0;
alter table channel add column column_hidden boolean not null default false;
alter table channel add column pattern jsonb;
alter table channel add column pan_right double precision;
alter table channel add column spread double precision not null default 100;

alter table "insert" drop constraint insert_type_check;

alter table settings add column mute_closes_cue boolean not null default false;
alter table settings add column solo_dim_db double precision;
alter table settings add column last_solo jsonb not null default '[]';
alter table settings add column interface_name text not null default 'Quay Eight';
alter table settings add column interface_outputs integer not null default 8;

create table cue_token (
  session_id text not null references session on delete cascade,
  id text not null,
  channel_id text not null,
  primary key (session_id, id),
  foreign key (session_id, channel_id) references channel deferrable initially deferred
);
create index cue_token_id on cue_token (id);
