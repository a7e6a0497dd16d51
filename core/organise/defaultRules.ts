// The rules that come with Isotaxis: common instruments in several spellings, abbreviations and languages. Earlier ones win, so
// what is special stands before what is general ("bass drum" before "bass").
import type { Family, Rule, RuleBook } from './ruleBook.ts';

const family = (name: string, section: string, stem: string, colour: number): Family => ({ name, section, stem, colour });

/** In the order in which they are laid out. */
const FAMILIES: readonly Family[] = [
  family('KICK', 'DRUMS', 'RHYTHM', 0),
  family('SNARE', 'DRUMS', 'RHYTHM', 0),
  family('TOMS', 'DRUMS', 'RHYTHM', 0),
  family('CYMBALS', 'DRUMS', 'RHYTHM', 0),
  family('DRUMS', 'DRUMS', 'RHYTHM', 0),
  family('HAND DRUMS', 'PERCUSSION', 'RHYTHM', 1),
  family('SHAKERS', 'PERCUSSION', 'RHYTHM', 2),
  family('PERCUSSION', 'PERCUSSION', 'RHYTHM', 1),
  family('PANS', '', 'PANS', 5),
  family('MALLETS', '', 'PANS', 4),
  family('BASS', '', 'BASS', 3),
  family('GUITARS', '', 'MUSIC', 4),
  family('KEYS', '', 'MUSIC', 6),
  family('SYNTHS', '', 'MUSIC', 8),
  family('STRINGS', '', 'MUSIC', 7),
  family('LOW BRASS', 'BRASS', 'BRASS', 11),
  family('BRASS', 'BRASS', 'BRASS', 11),
  family('WOODWIND', '', 'BRASS', 3),
  family('CHOIR', 'VOICES', 'VOICES', 9),
  family('BACKING', 'VOICES', 'VOICES', 10),
  family('LEAD', 'VOICES', 'VOICES', 10),
  family('SPEECH', '', 'SPEECH', 2),
  family('EFFECTS', '', 'EFFECTS', 8),
  family('ROOMS', '', 'ROOMS', 7)
];

type Line = readonly [words: string, role: Rule['role'], family: string, name?: string, pan?: number, bus?: string];

const LINES: readonly Line[] = [
  // What is not music.
  ['click*, metronome, metro, klick, claqueta, count in, countin, cuenta', 'key', '', '', 0, 'NOWHERE'],
  ['sidechain, side chain, sc key, duck key, key trigger, trigger key', 'key', '', '', 0, 'NOWHERE'],
  ['reference, ref mix, rough mix, roughmix, rough, ref, demo mix, guide mix', 'reference', '', '', 0, 'NOWHERE'],
  [
    'slate, talkback, talk back, tb, announce*, ansage, narrat*, narrador, speech, spoken, speaker, sprecher*, dialog*, dlg, voiceover, voice over, vo, moderat*, host, locucion, locutor, podcast',
    'speech',
    'SPEECH'
  ],
  // Rooms come before instruments: "drum room" stands with the drums all the same.
  ['drum room, drums room, kit room, room kit, drum amb, drums amb, room drums, rooms drums', 'room', 'DRUMS', '', 60],
  [
    'room*, amb, ambien*, ambiance, raum, sala, salle, hall, crowd, audience, publico, publikum, public, applause, house, decca*, hauptmikro*, main pair',
    'room',
    'ROOMS',
    '',
    60
  ],
  // Pans and mallets before basses, guitars and drums: a bass pan is a pan.
  [
    'steel pan*, steelpan*, steeldrum*, steel drum*, pan tenor*, tenor pan*, bass pan*, pan bass*, six bass, sixbass, nine bass, guitar pan*, gtr pan*, pan gtr, pan guitar*, dbl sec*, double sec*, dblsec*, double tenor*, dbl tenor*, cello pan*, pan cello*, quad pan*, quadrophonic*, four pan, pans',
    'pan',
    'PANS',
    '',
    40
  ],
  // Drums.
  ['kick*, kik, bd, bass drum, bassdrum, grosse caisse, gran cassa, bombo drum, grosse trommel, kck, kd', 'drum', 'KICK'],
  [
    'snare*, sn, snr, sd, snr top, snr bot, caisse claire, kleine trommel, tarola, redoblante, rimshot, rim shot, side stick, sidestick',
    'drum',
    'SNARE'
  ],
  ['tom, toms, floor tom, floortom, rack tom, racktom, ftom, rtom, tomtom, hi tom, lo tom, flr', 'drum', 'TOMS', '', 40],
  ['hi hat, hihat*, hat, hats, hh, charley, charles, contratiempo, chimbal', 'drum', 'CYMBALS'],
  ['overhead*, oh, ohs, ovh, ovhd, cymbal*, ride, crash, splash, china, becken, platillo*, pratos, cymb, cym', 'drum', 'CYMBALS', '', 80],
  [
    'hand drum*, surdo*, repique*, repinique*, repq*, caixa*, cxa, tamborim*, pandeiro*, conga*, bongo*, djembe*, jembe, darbuka*, darabuka, doumbek, tabla*, cajon*, timbal*, timbale*, quinto, tumba*, batá, bata, dhol*, dholak, bodhran, taiko*, frame drum, riq, daf, ashiko, bombo, zabumba, alfaia, atabaque, tumbadora*, dunun*, udu, mridangam',
    'percussion',
    'HAND DRUMS',
    '',
    30
  ],
  [
    'shaker*, shk, shkr, shake, maraca*, caxixi, ganza, rattle*, egg, cabasa, afuche, sonajero, rassel, chocalho, shekere',
    'percussion',
    'SHAKERS',
    '',
    70
  ],
  ['drum*, drm*, drumkit, kit, loop, loops, beat*, breakbeat, schlagzeug, bateria, batterie, batteria, trommel*, tambor', 'drum', 'DRUMS'],
  [
    'perc*, tamb*, tambourine*, tmb, cowbell*, cow bell, agogo*, clave*, claps, clap, snap*, handclap*, triangle, triangel, guiro, guira, woodblock*, wood block, block*, vibraslap, bell tree, wind chime*, chimes, windchime*, castanet*, whip, gong, tam tam, bell, bells, cencerro, palmas, pauken, timpani, timp*, anvil, flexatone, ratchet, stomp*, washboard, bones, spoons, finger snap*',
    'percussion',
    'PERCUSSION'
  ],
  [
    'vibraphon*, vibes, vib, marimba*, xylophon*, xylo*, glockenspiel*, glock*, mallet*, kalimba*, celesta, celeste, crotale*, handpan*, hang, balafon*, tubular bells',
    'pan',
    'MALLETS',
    '',
    40
  ],
  // Bass.
  ['bass clarinet, bassclarinet, bass klar*, clarinete bajo, bcl, bassoon*, querfloete, querflöte', 'wind', 'WOODWIND'],
  ['bass trombone*, bass tbn, basstrombone, bass trb, bstbn', 'brass', 'LOW BRASS'],
  ['choir bass*, chor bass*, bass voice, basses', 'choir', 'CHOIR'],
  [
    'double bass, doublebass, upright*, contrabass*, contrebasse, kontrabass, contrabajo, contrabbasso, acoustic bass, dbl bass, standup bass',
    'bass',
    'BASS'
  ],
  ['synth bass, synbass, synthbass, bass synth, sub bass, subbass, sub, 808*, moog bass, bass moog', 'bass', 'BASS'],
  ['bass*, bs, bss, bajo, basse, basso, baixo, bgtr, ebass, di bass', 'bass', 'BASS'],
  // Strings before guitars' "strings", keys and brass.
  [
    'string*, str, strs, strgs, violin*, vln*, vn, vla*, viola*, violon, violons, cello*, vc, vcl, vlc, violoncell*, celli, geige*, bratsche*, fiddle*, streicher*, cuerdas, cordes, archi, quartet, orchestra*, orch, violines',
    'strings',
    'STRINGS',
    '',
    40
  ],
  // Brass.
  [
    'trombone*, tbn*, trb, trbn, trom, bone, bones brass, posaune*, trombon*, tuba*, sousa*, sousaphone*, euphonium*, euph*, baritone horn, bari horn, helicon, bombardon, low brass, lowbrass, cimbasso',
    'brass',
    'LOW BRASS'
  ],
  [
    'trumpet*, trump, trpt*, tpt*, trp*, tp, trompet*, tromba*, trompeta*, cornet*, kornett, flugel*, flgl, fluegel*, flghn, flg, french horn*, fr horn, horn, horns, hrn*, hn, cor, corno*, cuivres, brass*, brs, blech*, metales, piccolo trumpet, mellophone',
    'brass',
    'BRASS',
    '',
    30
  ],
  // Woodwind.
  [
    'sax*, saxophon*, alto sax, tenor sax, bari sax, asax, tsax, bsax, ssax, flute*, fl, flt, floete*, flote*, flauta*, flaut*, piccolo, picc, clarinet*, klarinette*, clar, cl, oboe*, ob, hautbois, bassoon*, fagott*, fagot, bsn, basson, recorder*, blockflo*, pennywhistle, tin whistle, whistle, quena, panflute, pan flute, zampona*, duduk, ney, shakuhachi, woodwind*, winds, ww, holz*, maderas, bagpipe*, gaita',
    'wind',
    'WOODWIND',
    '',
    30
  ],
  // Voices.
  [
    'choir*, chr, chor, choeur, choeurs, coro, coros, coral, choral*, chorus vox, ensemble vox, gang*, crowd vox, group vox, soprano*, sop, alto*, alti, mezzo*, tenor voice, tenors, tenori, kinderchor, satb',
    'choir',
    'CHOIR',
    '',
    40
  ],
  [
    'backing*, bgv*, bvox, bv, bvs, bgvs, bv*, bkg vox, bg vox, back vox, backvox, background voc*, background vox, bgvox, harm, harms, harmony*, harmonies, hrm, double vox low, adlib*, ad lib*, choir fx, ooh*, aah*, oohs, ahs, oo, coro fem*, segunda voz, chœurs, background*, bck vox, stack*',
    'backing',
    'BACKING',
    '',
    50
  ],
  [
    'lead*, ld vox, ldvox, ldvx, lv, ldvoc, vox*, voc*, voice*, vocal*, vx, singer*, sing, gesang*, stimme*, voz, voces, voix, chant, canto, cantante, vocais, voci, rap*, mc, verse vox, hook*, lead vocal*, main vox, mainvox, ldv',
    'voice',
    'LEAD'
  ],
  // Guitars, keys, synths: their words are used for much else, so they come late.
  [
    'guitar*, gtr*, gt, gtrs, git*, gitarre*, guitarra*, guitare*, chitarra*, violao, viola caipira, acgtr, agtr, egtr, elgtr, acoustic*, ac gtr, acc gtr, strat*, tele*, les paul, lespaul, slide, dobro*, banjo*, mandolin*, mando*, ukulele*, uke*, bouzouki*, cavaquinho*, cavaco, charango*, tres, cuatro, requinto*, oud*, sitar*, balalaika*, lute*, laute*, harp, harfe, arpa, pedal steel, lap steel, riff*, strum*, nylon, twelve string',
    'guitar',
    'GUITARS',
    '',
    50
  ],
  [
    'piano*, pno*, pf, klavier*, flugel klavier, grand*, upright piano, rhodes*, rhds, wurli*, wurly, wurlitzer, epiano, ep, e piano, elec piano, organ*, org, orgel, orgue, organo, hammond*, b3, leslie*, clav*, clavinet*, harpsichord*, cembalo, clavecin, accordion*, accord, akkordeon*, acordeon*, accordeon*, bandoneon*, harmonium*, melodica*, keys, key, keyboard*, keyb*, kbd, kb, teclado*, clavier*, tastiera, tasten, mellotron*, celeste keys',
    'keys',
    'KEYS',
    '',
    50
  ],
  [
    'synth*, syn, synt*, pad*, arp*, arpegg*, pluck*, seq*, sequence*, lead synth, saw*, moog*, juno*, jupiter*, prophet*, dx, poly*, mono synth, modular*, drone*, atmos*, stab*, chord*, bleep*, sintetizador*, texture*',
    'synth',
    'SYNTHS',
    '',
    50
  ],
  [
    'fx, sfx, effect*, riser*, rise, sweep*, impact*, hit, hits, boom*, whoosh*, swell*, reverse*, rev, downlifter*, uplifter*, transition*, noise*, vinyl, scratch*, foley, sound design, soundscape*, efecto*, effekt*, bird*, rain, wind, thunder, water, nature',
    'effect',
    'EFFECTS'
  ]
];

const NAMES: Readonly<Record<string, string>> = {
  repq: 'Repique',
  shk: 'Shaker',
  tbn: 'Trombone',
  tpt: 'Trumpet',
  chr: 'Choir',
  ldvox: 'Lead voice',
  gtr: 'Guitar',
  sousa: 'Sousaphone',
  dbl: 'Double',
  sec: 'seconds',
  vln: 'Violin',
  vla: 'Viola',
  vlc: 'Cello',
  vc: 'Cello',
  bd: 'Kick',
  sn: 'Snare',
  snr: 'Snare',
  sd: 'Snare',
  hh: 'Hat',
  oh: 'Overhead',
  bgv: 'Backing',
  pno: 'Piano',
  perc: 'Percussion',
  vox: 'voice',
  tmb: 'Tambourine',
  org: 'Organ'
};

/** What common abbreviations stand for, in names that rules make. */
export const spelled = (token: string): string | undefined => NAMES[token];

export const defaultRules: RuleBook = {
  families: FAMILIES,
  rules: LINES.map(([words, role, name, pattern = '', pan = 0, bus = ''], i) => ({
    id: `rule-${i + 1}`,
    words,
    role,
    family: name,
    bus,
    colour: null,
    name: pattern,
    pan,
    sends: ''
  }))
};
