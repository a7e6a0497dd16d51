-- What columns may hold, as the description of the tables says it. Rows from before are brought into range; what could not be stays as
-- it is ("not valid" asks only of what is written from now on). greatest and least pass over nulls: these are asked about first.

update channel set
  name = left(name, 120),
  colour = greatest(0, least(11.999, colour)),
  trim_db = case when trim_db < -120 then '-infinity' else least(trim_db, 12) end,
  fader_db = case when fader_db < -120 then '-infinity' else least(fader_db, 12) end,
  pan = greatest(-100, least(100, pan)),
  pan_right = case when pan_right is null then null else greatest(-100, least(100, pan_right)) end,
  spread = greatest(0, least(200, spread)),
  output_pair = case when output_pair is null then null else least(63, output_pair) end
where char_length(name) > 120 or not (colour >= 0 and colour < 12) or trim_db > 12 or (trim_db < -120 and trim_db > '-infinity')
  or fader_db > 12 or (fader_db < -120 and fader_db > '-infinity') or not (pan between -100 and 100)
  or not (pan_right between -100 and 100) or not (spread between 0 and 200) or output_pair > 63;
update send set
  level_db = case when level_db < -120 then '-infinity' else least(level_db, 12) end,
  pan = case when pan is null then null else greatest(-100, least(100, pan)) end
where level_db > 12 or (level_db < -120 and level_db > '-infinity') or not (pan between -100 and 100);
update settings set
  name = left(name, 120),
  bpm = greatest(20, least(400, bpm)),
  beats_per_bar = greatest(1, least(16, beats_per_bar)),
  solo_dim_db = case when solo_dim_db is null then null else greatest(-60, least(0, solo_dim_db)) end,
  interface_name = left(interface_name, 60);
update media set name = left(name, 255) where char_length(name) > 255;

alter table settings drop constraint if exists settings_id_check;
alter table settings drop constraint if exists settings_rate_check;
alter table settings drop constraint if exists settings_bpm_check;
alter table settings drop constraint if exists settings_beats_per_bar_check;
alter table settings drop constraint if exists settings_zero_check;
alter table channel drop constraint if exists channel_kind_check;
alter table channel drop constraint if exists channel_name_check;
alter table channel drop constraint if exists channel_colour_check;
alter table channel drop constraint if exists channel_width_check;
alter table channel drop constraint if exists channel_output_pair_check;
alter table channel drop constraint if exists channel_fader_db_check;
alter table channel drop constraint if exists channel_pan_check;
alter table channel drop constraint if exists channel_trim_db_check;
alter table send drop constraint if exists send_level_db_check;
alter table send drop constraint if exists send_tap_check;
alter table send drop constraint if exists send_pan_check;
alter table "insert" drop constraint if exists insert_key_tap_check;
alter table media drop constraint if exists media_sha256_check;
alter table media drop constraint if exists media_rate_check;
alter table media drop constraint if exists media_frames_check;
alter table media drop constraint if exists media_channels_check;
alter table media drop constraint if exists media_encoding_check;
alter table clip drop constraint if exists clip_length_check;
alter table clip drop constraint if exists clip_channel_check;
alter table clip drop constraint if exists clip_side_check;
alter table showing drop constraint if exists showing_number_check;

alter table "settings" add constraint id_fits check ("id" = 'settings') not valid;
alter table "settings" add constraint name_fits check ("name" <> '' and char_length("name") <= 120) not valid;
alter table "settings" add constraint rate_fits check ("rate" >= 1000 and "rate" <= 768000) not valid;
alter table "settings" add constraint bpm_fits check ("bpm" >= 20 and "bpm" <= 400) not valid;
alter table "settings" add constraint beats_per_bar_fits check ("beats_per_bar" >= 1 and "beats_per_bar" <= 16) not valid;
alter table "settings" add constraint pan_law_fits check ("pan_law" in (-3, -4.5, -6, 0)) not valid;
alter table "settings" add constraint solo_dim_db_fits check ("solo_dim_db" >= -60 and "solo_dim_db" <= 0) not valid;
alter table "settings" add constraint interface_name_fits check ("interface_name" <> '' and char_length("interface_name") <= 60) not valid;
alter table "settings" add constraint interface_outputs_fits check ("interface_outputs" >= 2 and "interface_outputs" <= 128 and "interface_outputs" % 2 = 0) not valid;
alter table "settings" add constraint zero_fits check ("zero" >= 0 and "zero" <= 9007199254740991) not valid;
alter table "channel" add constraint kind_fits check ("kind" in ('track', 'bus', 'return', 'mix', 'cue', 'key')) not valid;
alter table "channel" add constraint name_fits check ("name" <> '' and char_length("name") <= 120) not valid;
alter table "channel" add constraint colour_fits check ("colour" >= 0 and "colour" < 12) not valid;
alter table "channel" add constraint born_fits check ("born" >= 0 and "born" <= 2147483647) not valid;
alter table "channel" add constraint width_fits check ("width" in (1, 2)) not valid;
alter table "channel" add constraint output_pair_fits check ("output_pair" >= 0 and "output_pair" <= 63) not valid;
alter table "channel" add constraint trim_db_fits check (("trim_db" >= -120 or "trim_db" = '-infinity') and "trim_db" <= 12) not valid;
alter table "channel" add constraint fader_db_fits check (("fader_db" >= -120 or "fader_db" = '-infinity') and "fader_db" <= 12) not valid;
alter table "channel" add constraint pan_fits check ("pan" >= -100 and "pan" <= 100) not valid;
alter table "channel" add constraint pan_right_fits check ("pan_right" >= -100 and "pan_right" <= 100) not valid;
alter table "channel" add constraint spread_fits check ("spread" >= 0 and "spread" <= 200) not valid;
alter table "send" add constraint level_db_fits check (("level_db" >= -120 or "level_db" = '-infinity') and "level_db" <= 12) not valid;
alter table "send" add constraint tap_fits check ("tap" in ('input', 'pre', 'post')) not valid;
alter table "send" add constraint pan_fits check ("pan" >= -100 and "pan" <= 100) not valid;
alter table "insert" add constraint key_tap_fits check ("key_tap" in ('input', 'pre', 'post')) not valid;
alter table "clip" add constraint start_fits check ("start" >= 0 and "start" <= 66355200000) not valid;
alter table "clip" add constraint offset_fits check ("offset" >= 0 and "offset" <= 66355200000) not valid;
alter table "clip" add constraint length_fits check ("length" >= 1 and "length" <= 66355200000) not valid;
alter table "clip" add constraint channel_fits check ("channel" >= 0 and "channel" <= 255) not valid;
alter table "clip" add constraint side_fits check ("side" in ('both', 'left', 'right')) not valid;
alter table "media" add constraint name_fits check (char_length("name") <= 255) not valid;
alter table "media" add constraint sha256_fits check ("sha256" ~ '^[0-9a-f]{64}$') not valid;
alter table "media" add constraint rate_fits check ("rate" >= 1000 and "rate" <= 768000) not valid;
alter table "media" add constraint channels_fits check ("channels" >= 1 and "channels" <= 256) not valid;
alter table "media" add constraint frames_fits check ("frames" >= 1 and "frames" <= 66355200000) not valid;
alter table "media" add constraint encoding_fits check ("encoding" in ('s16', 's24', 's32', 'f32', 'f64')) not valid;
alter table "divider" add constraint caption_fits check ("caption" <> '' and char_length("caption") <= 120) not valid;
alter table "showing" add constraint number_fits check ("number" >= 1 and "number" <= 9) not valid;
alter table "showing" add constraint name_fits check ("name" <> '' and char_length("name") <= 120) not valid;
