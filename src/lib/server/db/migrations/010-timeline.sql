-- The Timeline: gain, fades and muting of clips, markers, ranges.

alter table clip add column gain_db double precision not null default 0 constraint gain_db_fits check ("gain_db" >= -60 and "gain_db" <= 24);
alter table clip add column fade_in bigint not null default 0 constraint fade_in_fits check ("fade_in" >= 0 and "fade_in" <= 66355200000);
alter table clip add column fade_in_curve text not null default 'linear' constraint fade_in_curve_fits check ("fade_in_curve" in ('linear', 'power', 'slow', 'fast'));
alter table clip add column fade_out bigint not null default 0 constraint fade_out_fits check ("fade_out" >= 0 and "fade_out" <= 66355200000);
alter table clip add column fade_out_curve text not null default 'linear' constraint fade_out_curve_fits check ("fade_out_curve" in ('linear', 'power', 'slow', 'fast'));
alter table clip add column muted boolean not null default false;
alter table clip add check ("fade_in" + "fade_out" <= "length");
alter table settings add column edge_ms double precision not null default 2 constraint edge_ms_fits check ("edge_ms" >= 0 and "edge_ms" <= 1000);

-- Clips that lay over each other, which only packages could bring: the later lies on top, as it was heard.
delete from clip c using clip d
  where d.session_id = c.session_id and d.channel_id = c.channel_id and d.id > c.id and d.start = c.start
    and (d.side = c.side or d.side = 'both' or c.side = 'both');
update clip c set length = d.start - c.start
  from (
    select c.session_id, c.id, min(d.start) as start from clip c join clip d
      on d.session_id = c.session_id and d.channel_id = c.channel_id and d.start > c.start
        and (d.side = c.side or d.side = 'both' or c.side = 'both')
    group by c.session_id, c.id
  ) d
  where d.session_id = c.session_id and d.id = c.id and d.start < c.start + c.length;

create table "marker" (
  session_id text not null references session on delete cascade,
  "id" text not null,
  "name" text not null constraint name_fits check ("name" <> '' and char_length("name") <= 120),
  "colour" double precision not null constraint colour_fits check ("colour" >= 0 and "colour" < 12),
  "at" bigint not null constraint at_fits check ("at" >= 0 and "at" <= 66355200000),
  primary key (session_id, "id")
);

create table "range" (
  session_id text not null references session on delete cascade,
  "id" text not null,
  "name" text not null constraint name_fits check ("name" <> '' and char_length("name") <= 120),
  "colour" double precision not null constraint colour_fits check ("colour" >= 0 and "colour" < 12),
  "start" bigint not null constraint start_fits check ("start" >= 0 and "start" <= 66355200000),
  "length" bigint not null constraint length_fits check ("length" >= 1 and "length" <= 66355200000),
  primary key (session_id, "id")
);
