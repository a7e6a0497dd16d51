-- Stems, versions of the mix, its fades; prints as jobs of files.

alter table channel add column stem boolean not null default false;
alter table channel add column common boolean not null default false;
alter table settings add column fade_in bigint not null default 0 constraint fade_in_fits check ("fade_in" >= 0 and "fade_in" <= 66355200000);
alter table settings add column fade_in_curve text not null default 'linear' constraint fade_in_curve_fits check ("fade_in_curve" in ('linear', 'power', 'slow', 'fast'));
alter table settings add column fade_out bigint not null default 0 constraint fade_out_fits check ("fade_out" >= 0 and "fade_out" <= 66355200000);
alter table settings add column fade_out_curve text not null default 'linear' constraint fade_out_curve_fits check ("fade_out_curve" in ('linear', 'power', 'slow', 'fast'));

create table "version" (
  session_id text not null references session on delete cascade,
  "id" text not null,
  "name" text not null constraint name_fits check ("name" <> '' and char_length("name") <= 120),
  "stems" jsonb not null,
  "inserts" jsonb not null,
  "fader" boolean not null,
  "fades" boolean not null,
  "channels" jsonb not null,
  "position" double precision not null,
  primary key (session_id, "id")
);

create table print_job (
  id          text primary key,
  session_id  text not null references session on delete cascade,
  name        text not null,
  revision    bigint not null,
  -- What was asked for, so that it can be asked for again.
  asked       jsonb not null,
  status      text not null check (status in ('running', 'done', 'failed', 'cancelled', 'interrupted')),
  message     text not null default '',
  rate        integer not null,
  frames      bigint not null default 0,
  -- What was proved on the files read back.
  proof       jsonb not null default '{}',
  started_at  timestamptz not null default now(),
  finished_at timestamptz
);
create index print_job_session on print_job (session_id);

create table print_file (
  id           text primary key,
  job_id       text not null references print_job on delete cascade,
  position     integer not null,
  kind         text not null,
  name         text not null,
  format       text not null,
  channels     integer not null default 2,
  frames       bigint not null default 0,
  bytes        bigint not null default 0,
  peak_db      double precision,
  true_peak_db double precision,
  lufs         double precision,
  range_lu     double precision,
  sha256       text not null default ''
);
create index print_file_job on print_file (job_id, position);

insert into print_job (id, session_id, name, revision, asked, status, message, rate, frames, started_at, finished_at)
  select id, session_id, name, revision, jsonb_build_object('files', jsonb_build_array(jsonb_build_object('kind', 'mix')), 'format', case encoding when 'f32' then 'wav32f' else 'wav24' end), status, message, rate, frames, started_at, finished_at from print;
insert into print_file (id, job_id, position, kind, name, format, frames, peak_db)
  select id, id, 0, 'mix', name || '.wav', case encoding when 'f32' then 'wav32f' else 'wav24' end, frames, nullif(peak_db, '-infinity') from print where status = 'done';
drop table print;
