// Who made what ships with Isotaxis, under which licence: read from the lock file and written beside the page, which links to it.
import { createRequire } from 'node:module';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';

const texts = createRequire(import.meta.url)('spdx-license-list/full');
const { packages } = JSON.parse(readFileSync('package-lock.json', 'utf8'));

/** Needed for building only, yet what they make, or a part of them, is in what ships. */
const SHIPPED = [
  ...['svelte', '@sveltejs/kit', '@sveltejs/adapter-node', 'flowbite-svelte', '@lucide/svelte', 'fuse.js', 'tailwindcss', 'assemblyscript'],
  ...['@fontsource-variable/atkinson-hyperlegible-next', '@fontsource-variable/atkinson-hyperlegible-mono']
];
/** Libraries compiled into a package, which its own licence does not speak of. */
const INSIDE = {
  'mpg123-decoder': [['mpg123', 'LGPL-2.1-only', 'https://mpg123.org']],
  'ogg-opus-decoder': [['libopus', 'BSD-3-Clause', 'https://opus-codec.org']],
  '@wasm-audio-decoders/opus-ml': [['libopus', 'BSD-3-Clause', 'https://opus-codec.org']],
  'opus-decoder': [['libopus', 'BSD-3-Clause', 'https://opus-codec.org']],
  '@wasm-audio-decoders/ogg-vorbis': [['libvorbis and libogg', 'BSD-3-Clause', 'https://xiph.org']],
  '@wasm-audio-decoders/flac': [['libFLAC', 'BSD-3-Clause', 'https://xiph.org/flac']],
  '@alexanderolsen/libsamplerate-js': [['libsamplerate', 'BSD-2-Clause', 'https://libsndfile.github.io/libsamplerate']],
  '@electric-sql/pglite': [['PostgreSQL', 'PostgreSQL', 'https://www.postgresql.org']]
};

/** Where a package that another one needs was installed: beside it, or further out. */
function placeOf(name, from) {
  for (let at = from; ; at = at.slice(0, Math.max(0, at.lastIndexOf('node_modules') - 1))) {
    const place = `${at ? `${at}/` : ''}node_modules/${name}`;
    if (packages[place]) return place;
    if (!at) return null;
  }
}

function reached() {
  const found = new Set();
  const queue = [...Object.keys(packages[''].dependencies), ...SHIPPED].map((name) => placeOf(name, ''));
  for (const place of queue) {
    if (!place || found.has(place) || !existsSync(place)) continue;
    found.add(place);
    const { dependencies = {}, optionalDependencies = {} } = packages[place];
    queue.push(...Object.keys({ ...dependencies, ...optionalDependencies }).map((name) => placeOf(name, place)));
  }
  return [...found].sort();
}

const fullText = (license) => texts[license.replace(/[()]/g, '').split(/ (?:OR|AND) /)[0]]?.licenseText ?? '';
const rule = '─'.repeat(100);

export function notices() {
  const parts = [];
  const standard = new Map();
  for (const place of reached()) {
    const name = place.slice(place.lastIndexOf('node_modules/') + 13);
    const { version, license = 'see its text' } = packages[place];
    const file = readdirSync(place).find((each) => /^(licen[cs]e|copying)/i.test(each));
    const own = file ? readFileSync(path.join(place, file), 'utf8').trim() : '';
    const inside = (INSIDE[name] ?? []).map(([what, terms, where]) => {
      standard.set(terms, fullText(terms));
      return `It contains ${what} (${where}), under ${terms}; the text stands at the end.`;
    });
    if (!own) standard.set(license, fullText(license));
    const said = own || `Its package names its licence, ${license}; the text stands at the end.`;
    parts.push([rule, `${name} ${version} · ${license}`, ...inside, '', said, ''].join('\n'));
  }
  const ends = [...standard]
    .filter(([, text]) => text)
    .map(([license, text]) => [rule, `The text of ${license}`, '', text.trim(), ''].join('\n'));
  const head =
    'Isotaxis is under the MIT licence. What follows is what it is made with, and the licences of that. Parts under the LGPL are files of their own in ' +
    'node_modules, which can be exchanged for other versions.\n';
  return [head, ...parts, ...ends].join('\n');
}

writeFileSync('build/client/third-party-notices.txt', notices());
