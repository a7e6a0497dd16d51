// Which strips are emitted together.
import { expect, it } from 'vitest';
import type { InsertType } from '../../session/entities.ts';
import type { Strip } from '../topology.ts';
import { batchesOf } from './batches.ts';

const strips = (count: number, width: 1 | 2, ...types: InsertType[]): Strip[] =>
  Array.from({ length: count }, () => ({ channel: { width }, inserts: types.map((type) => ({ type })) }) as unknown as Strip);

it('puts like strips together by eight signals, and what is left over of all of them; none is lost or doubled', () => {
  const racks = strips(20, 1, 'eq', 'comp');
  const [pairs, plain, odd] = [strips(5, 2, 'eq'), strips(11, 1), strips(3, 1, 'trim')];
  const level = [...racks.slice(0, 7), ...plain, ...pairs, ...racks.slice(7), ...odd];
  const batches = batchesOf(level);
  expect(batches.map((batch) => batch.length)).toEqual([8, 4, 8, 8, 3, 4 + 1 + 3]);
  expect(batches[2]).toEqual(racks.slice(0, 8));
  expect(new Set(batches.flat())).toEqual(new Set(level));
  expect(batches.flat()).toHaveLength(level.length);
});
