// Delay: up to eight taps of two rings, feedback through a high- and a low-pass; straight, crossing or ping-pong.
// Rings are indexed by the absolute frame, so that a snapshot of the engine need not copy them.
import { PERIOD, TINY } from './layout';

// The instance, in bytes from its start:
//   0 ring address · 4 mask · 8 taps · 12 mode: 0 straight, 1 crossing, 2 ping-pong
//   16 feedback gain, step · 24 high-pass · 28 low-pass · 32 wet, step · 40 dry, step
//   48 high-pass states[2] · 56 low-pass states[2] · 64 feedback frames left, right · 72 gain into the rings, step
//   80 taps[8]: frames left, frames right, gain left, gain right
const TAPS: usize = 80;

export function delay(op: usize, frame: i64): void {
  const srcL: usize = load<u32>(op + 4);
  const srcR: usize = load<u32>(op + 8);
  const dstL: usize = load<u32>(op + 12);
  const dstR: usize = load<u32>(op + 16);
  const at: usize = load<u32>(op + 20);
  const ring: usize = load<u32>(at);
  const mask = load<i32>(at + 4);
  const taps = load<i32>(at + 8);
  const mode = load<i32>(at + 12);
  let feedback = load<f32>(at + 16);
  const feedbackStep = load<f32>(at + 20);
  const high = load<f32>(at + 24);
  const low = load<f32>(at + 28);
  let wet = load<f32>(at + 32);
  const wetStep = load<f32>(at + 36);
  let dry = load<f32>(at + 40);
  const dryStep = load<f32>(at + 44);
  let highL = load<f32>(at + 48);
  let highR = load<f32>(at + 52);
  let lowL = load<f32>(at + 56);
  let lowR = load<f32>(at + 60);
  let door = load<f32>(at + 72);
  const doorStep = load<f32>(at + 76);
  const backL = load<i32>(at + 64);
  const backR = load<i32>(at + 68);
  for (let n = 0; n < PERIOD; n++) {
    const now = <i32>frame + n;
    const inL = load<f32>(srcL + <usize>n * 4);
    const inR = load<f32>(srcR + <usize>n * 4);
    let l = load<f32>(ring + <usize>((now - backL) & mask) * 8);
    let r = load<f32>(ring + <usize>((now - backR) & mask) * 8 + 4);
    highL += high * (l - highL);
    highR += high * (r - highR);
    lowL += low * (l - highL - lowL);
    lowR += low * (r - highR - lowR);
    l = lowL * feedback;
    r = lowR * feedback;
    const fedL = inL * door;
    const fedR = inR * door;
    if (mode == 0) {
      l += fedL;
      r += fedR;
    } else if (mode == 1) {
      const swap = l;
      l = fedL + r;
      r = fedR + swap;
    } else {
      const swap = l;
      l = (fedL + fedR) * 0.5 + r;
      r = swap;
    }
    store<f32>(ring + <usize>(now & mask) * 8, kept(l));
    store<f32>(ring + <usize>(now & mask) * 8 + 4, kept(r));
    let outL: f32 = 0;
    let outR: f32 = 0;
    for (let i = 0; i < taps; i++) {
      const tap = at + TAPS + <usize>i * 16;
      outL += load<f32>(ring + <usize>((now - load<i32>(tap)) & mask) * 8) * load<f32>(tap + 8);
      outR += load<f32>(ring + <usize>((now - load<i32>(tap + 4)) & mask) * 8 + 4) * load<f32>(tap + 12);
    }
    store<f32>(dstL + <usize>n * 4, inL * dry + outL * wet);
    store<f32>(dstR + <usize>n * 4, inR * dry + outR * wet);
    feedback += feedbackStep;
    wet += wetStep;
    dry += dryStep;
    door += doorStep;
  }
  store<f32>(at + 48, kept(highL));
  store<f32>(at + 52, kept(highR));
  store<f32>(at + 56, kept(lowL));
  store<f32>(at + 60, kept(lowR));
}

function kept(x: f32): f32 {
  return abs<f32>(x) < TINY ? <f32>0 : x;
}
