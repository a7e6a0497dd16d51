// A ZIP of one file, compressed, for what no export of ours would hold.
import { crc32, deflateRawSync } from 'node:zlib';

export function zip(name: string, content: Buffer): Buffer {
  const packed = deflateRawSync(content);
  const title = Buffer.from(name);
  const fields = Buffer.alloc(26);
  fields.writeUInt16LE(20, 0);
  fields.writeUInt16LE(8, 4);
  fields.writeUInt32LE(crc32(content), 10);
  fields.writeUInt32LE(packed.length, 14);
  fields.writeUInt32LE(content.length, 18);
  fields.writeUInt16LE(title.length, 22);
  const local = Buffer.concat([Buffer.from('PK\x03\x04'), fields, title, packed]);
  const central = Buffer.concat([Buffer.from('PK\x01\x02\x14\x00', 'latin1'), fields, Buffer.alloc(14), title]);
  const end = Buffer.alloc(22);
  end.write('PK\x05\x06', 'latin1');
  end.writeUInt16LE(1, 8);
  end.writeUInt16LE(1, 10);
  end.writeUInt32LE(central.length, 12);
  end.writeUInt32LE(local.length, 16);
  return Buffer.concat([local, central, end]);
}
