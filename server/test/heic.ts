// HEIC files for tests (ISO/IEC 23008-12), of one image in HEVC (ITU-T H.265) whose blocks are all written as plain samples: what it must
// decode to is known to the sample, and nothing but the entropy coder is needed to write it.

const BLOCK = 16;

class Bits {
  private readonly bits: number[] = [];
  u(count: number, value: number): this {
    for (let at = count - 1; at >= 0; at--) this.bits.push(Math.floor(value / 2 ** at) % 2);
    return this;
  }
  /** Exponential Golomb code. */
  ue(value: number): this {
    const length = Math.floor(Math.log2(value + 1));
    return this.u(length, 0).u(length + 1, value + 1);
  }
  flags(...values: number[]): this {
    for (const one of values) this.u(1, one);
    return this;
  }
  alignZero(): this {
    while (this.bits.length % 8 !== 0) this.bits.push(0);
    return this;
  }
  trailing(): this {
    return this.u(1, 1).alignZero();
  }
  bytes(): Buffer {
    const bytes = Buffer.alloc(this.bits.length / 8);
    this.bits.forEach((bit, at) => (bytes[at >> 3]! |= bit << (7 - (at & 7))));
    return bytes;
  }
}

/** Ranges of the less probable symbol, by state (table 9-52). */
const RANGES =
  `128,176,208,240 128,167,197,227 128,158,187,216 123,150,178,205 116,142,169,195 111,135,160,185 105,128,152,175
100,122,144,166 95,116,137,158 90,110,130,150 85,104,123,142 81,99,117,135 77,94,111,128 73,89,105,122 69,85,100,116 66,80,95,110
62,76,90,104 59,72,86,99 56,69,81,94 53,65,77,89 51,62,73,85 48,59,69,80 46,56,66,76 43,53,63,72 41,50,59,69 39,48,56,65 37,45,54,62
35,43,51,59 33,41,48,56 32,39,46,53 30,37,43,50 29,35,41,48 27,33,39,45 26,31,37,43 24,30,35,41 23,28,33,39 22,27,32,37 21,26,30,35
20,24,29,33 19,23,27,31 18,22,26,30 17,21,25,28 16,20,23,27 15,19,22,25 14,18,21,24 14,17,20,23 13,16,19,22 12,15,18,21 12,14,17,20
11,14,16,19 11,13,15,18 10,12,15,17 10,12,14,16 9,11,13,15 9,11,12,14 8,10,12,14 8,9,11,13 7,9,11,12 7,9,10,12 7,8,10,11 6,8,9,11
6,7,9,10 6,7,8,9`
    .split(/\s+/)
    .map((row) => row.split(',').map(Number));

/** The arithmetic coder (9.3.4), as far as it is needed here: the probable symbol, and the end of a stretch. */
class Coder {
  private low = 0;
  private range = 510;
  private first = true;
  private outstanding = 0;
  constructor(private readonly out: Bits) {}

  private put(bit: number): void {
    if (this.first) this.first = false;
    else this.out.u(1, bit);
    for (; this.outstanding > 0; this.outstanding--) this.out.u(1, 1 - bit);
  }
  private renormalise(): void {
    while (this.range < 256) {
      if (this.low < 256) this.put(0);
      else if (this.low >= 512) {
        this.low -= 512;
        this.put(1);
      } else {
        this.low -= 256;
        this.outstanding++;
      }
      this.range *= 2;
      this.low *= 2;
    }
  }
  probable(state: number): void {
    this.range -= RANGES[state]![(this.range >> 6) & 3]!;
    this.renormalise();
  }
  end(over: boolean): void {
    this.range -= 2;
    if (!over) return this.renormalise();
    this.low += this.range;
    this.range = 2;
    this.renormalise();
    this.put((this.low >> 9) & 1);
    this.out.u(2, ((this.low >> 7) & 3) | 1);
  }
}

function profile(bits: Bits): Bits {
  return bits.u(2, 0).u(1, 0).u(5, 3).u(32, 0x70000000).flags(1, 0, 1, 1).u(43, 0).u(1, 0).u(8, 93);
}

const nal = (type: number, payload: Buffer): Buffer => {
  const bytes = [type << 1, 1];
  let zeros = 0;
  for (const byte of payload) {
    if (zeros >= 2 && byte <= 3) {
      bytes.push(3);
      zeros = 0;
    }
    bytes.push(byte);
    zeros = byte === 0 ? zeros + 1 : 0;
  }
  return Buffer.from(bytes);
};

function hevc(width: number, height: number, sample: (x: number, y: number) => [number, number, number]) {
  const video = profile(new Bits().u(4, 0).flags(1, 1).u(6, 0).u(3, 0).u(1, 1).u(16, 0xffff));
  video.u(1, 1).ue(0).ue(0).ue(0).u(6, 0).ue(0).flags(0, 0).trailing();
  const sequence = profile(new Bits().u(4, 0).u(3, 0).u(1, 1));
  sequence.ue(0).ue(1).ue(width).ue(height).u(1, 0).ue(0).ue(0).ue(0).u(1, 1).ue(0).ue(0).ue(0);
  // Blocks of 16, transforms of 4 to 16, all of them plain samples of 8 bits, not filtered.
  sequence.ue(1).ue(0).ue(0).ue(2).ue(0).ue(0).flags(0, 0, 0, 1).u(4, 7).u(4, 7).ue(1).ue(0).u(1, 1);
  sequence.ue(0).flags(0, 0, 0, 0, 0).trailing();
  const picture = new Bits().ue(0).ue(0).flags(0, 0).u(3, 0).flags(0, 0).ue(0).ue(0).ue(0).flags(0, 0, 0);
  picture.ue(0).ue(0).flags(0, 0, 0, 0, 0, 0, 0).flags(1, 0, 1).flags(0, 0).ue(0).flags(0, 0).trailing();
  const slice = new Bits().flags(1, 0).ue(0).ue(2).ue(0).trailing();
  let state = 0;
  let coder = new Coder(slice);
  for (let top = 0; top < height; top += BLOCK)
    for (let left = 0; left < width; left += BLOCK) {
      coder.probable(state);
      state = Math.min(62, state + 1);
      coder.end(true);
      slice.alignZero();
      for (const [plane, step] of [
        [0, 1],
        [1, 2],
        [2, 2],
      ] as const)
        for (let y = 0; y < BLOCK; y += step)
          for (let x = 0; x < BLOCK; x += step) slice.u(8, sample(left + x, top + y)[plane]);
      coder = new Coder(slice);
      coder.end(left + BLOCK >= width && top + BLOCK >= height);
    }
  slice.alignZero();
  return {
    sets: [nal(32, video.bytes()), nal(33, sequence.bytes()), nal(34, picture.bytes())],
    slice: nal(19, slice.bytes()),
  };
}

export function box(type: string, ...parts: Buffer[]): Buffer {
  const body = Buffer.concat(parts);
  const head = Buffer.alloc(8);
  head.writeUInt32BE(8 + body.length);
  head.write(type, 4, 'latin1');
  return Buffer.concat([head, body]);
}
const numbers = (...values: [size: 1 | 2 | 4, value: number][]): Buffer =>
  Buffer.concat(
    values.map(([size, value]) => {
      const bytes = Buffer.alloc(size);
      bytes.writeUIntBE(value, 0, size);
      return bytes;
    }),
  );

/**
 * An image as phones send it.
 * @param width pixels, a multiple of 16, as the height
 * @param sample luma, blue and red difference of a pixel (0 to 255, ITU-T T.871)
 * @param quarters it is to be turned by so many quarters, against the clock
 */
export function heic(
  width: number,
  height: number,
  sample: (x: number, y: number) => [number, number, number],
  quarters = 0,
): Buffer {
  const { sets, slice } = hevc(width, height, sample);
  const config = box(
    'hvcC',
    numbers([1, 1], [1, 3], [4, 0x70000000], [2, 0xb000], [4, 0], [1, 93], [2, 0xf000], [1, 0xfc], [1, 0xfd]),
    numbers([1, 0xf8], [1, 0xf8], [2, 0], [1, 0x0f], [1, 3]),
    ...sets.map((one, at) => Buffer.concat([numbers([1, 0x80 | (32 + at)], [2, 1], [2, one.length]), one])),
  );
  const data = Buffer.concat([numbers([4, slice.length]), slice]);
  const meta = (offset: number) =>
    box(
      'meta',
      numbers([4, 0]),
      box('hdlr', numbers([4, 0], [4, 0]), Buffer.from('pict'), Buffer.alloc(13)),
      box('pitm', numbers([4, 0], [2, 1])),
      box(
        'iloc',
        numbers([4, 0], [2, 0x4400], [2, 1], [2, 1], [2, 0], [2, 1], [4, offset], [4, data.length]),
      ),
      box(
        'iinf',
        numbers([4, 0], [2, 1]),
        box('infe', numbers([4, 0x02000000], [2, 1], [2, 0]), Buffer.from('hvc1\0')),
      ),
      box(
        'iprp',
        box(
          'ipco',
          config,
          box('ispe', numbers([4, 0], [4, width], [4, height])),
          ...(quarters ? [box('irot', numbers([1, quarters]))] : []),
        ),
        box(
          'ipma',
          numbers([4, 0], [4, 1], [2, 1], [1, quarters ? 3 : 2], [1, 0x81], [1, 0x02]),
          numbers(...(quarters ? [[1, 0x83] as [1, number]] : [])),
        ),
      ),
    );
  const type = box('ftyp', Buffer.from('heic\0\0\0\0mif1heic', 'latin1'));
  const offset = type.length + meta(0).length + 8;
  return Buffer.concat([type, meta(offset), box('mdat', data)]);
}
