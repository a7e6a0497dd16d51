// Outside device: a delay for the way out and back, a unit (a wire, a spring, something tape-like) and a noise floor.
// Rings and noise go by the absolute frame, so that a snapshot of the engine need not copy them.
import { PERIOD, TINY } from './layout';

// One side's instance, in bytes from its start:
//   0 delay ring · 4 its mask · 8 spring ring · 12 its mask · 16 unit · 20 latency · 24 spring frames · 28 seed of the noise
//   32 drive, step · 40 wet, step · 48 dry, step · 56 noise, step · 64 low-pass coefficient · 68 its state
//   72 spring's share back · 76 spring's level · 80 all-pass coefficient · 84 fade, step · 96 all-pass states[32][2]
const PASSES: i32 = 32;
const STATES: usize = 96;

/** op: in, out, instance. */
export function outside(op: usize, frame: i64): void {
  const src: usize = load<u32>(op + 4);
  const dst: usize = load<u32>(op + 8);
  const at: usize = load<u32>(op + 12);
  const ring: usize = load<u32>(at);
  const mask = load<i32>(at + 4);
  const spring: usize = load<u32>(at + 8);
  const springMask = load<i32>(at + 12);
  const unit = load<i32>(at + 16);
  const latency = load<i32>(at + 20);
  const long = load<i32>(at + 24);
  const seed = load<u32>(at + 28);
  const low = load<f32>(at + 64);
  const back = load<f32>(at + 72);
  const level = load<f32>(at + 76);
  let drive = load<f32>(at + 32);
  let wet = load<f32>(at + 40);
  let dry = load<f32>(at + 48);
  let noise = load<f32>(at + 56);
  let fade = load<f32>(at + 84);
  let lowed = load<f32>(at + 68);
  for (let n = 0; n < PERIOD; n++) {
    const now = <i32>frame + n;
    store<f32>(ring + <usize>(now & mask) * 4, load<f32>(src + <usize>n * 4));
    const there = load<f32>(ring + <usize>((now - latency) & mask) * 4);
    let x = there;
    if (unit == 1) {
      const echo = load<f32>(spring + <usize>((now - long) & springMask) * 4);
      // With the fade: what begins at full level would come back as an edge.
      lowed += low * (there * drive * fade + back * echo - lowed);
      store<f32>(spring + <usize>(now & springMask) * 4, spread(at, kept(lowed)));
      x = echo * level;
    } else if (unit == 2) {
      const hot = there * drive;
      lowed += low * (hot / sqrt<f32>(<f32>1 + hot * hot) - lowed);
      lowed = kept(lowed);
      x = lowed / drive;
    }
    store<f32>(dst + <usize>n * 4, there * dry + (x * fade + hiss((<u32>now) ^ seed) * noise) * wet);
    drive += load<f32>(at + 36);
    wet += load<f32>(at + 44);
    dry += load<f32>(at + 52);
    noise += load<f32>(at + 60);
    fade += load<f32>(at + 88);
  }
  store<f32>(at + 68, kept(lowed));
}

/** A chain of first-order all-passes: high and low arrive at different times, as along a coiled wire. */
function spread(at: usize, input: f32): f32 {
  const a = load<f32>(at + 80);
  let x = input;
  for (let i = 0; i < PASSES; i++) {
    const state = at + STATES + <usize>i * 8;
    const y = a * (x - load<f32>(state + 4)) + load<f32>(state);
    store<f32>(state, x);
    store<f32>(state + 4, kept(y));
    x = kept(y);
  }
  return x;
}

/** White noise −1 … 1 from a frame's number (the finaliser of MurmurHash3): no state, the same wherever one begins. */
function hiss(frame: u32): f32 {
  let x = frame * 0x9e3779b1;
  x ^= x >> 16;
  x *= 0x85ebca6b;
  x ^= x >> 13;
  x *= 0xc2b2ae35;
  x ^= x >> 16;
  return <f32>((<i32>x) >> 8) * (1.0 / 8388608.0);
}

function kept(x: f32): f32 {
  return abs<f32>(x) < TINY ? <f32>0 : x;
}
