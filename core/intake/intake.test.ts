import { describe, expect, test } from 'vitest';
import { findingsOf, outcomeOf, preparationOf } from './findings.ts';
import type { Checked } from './finding.ts';
import type { Recipe } from '../picture/recipe/recipe.ts';
import { TREATMENTS } from '../picture/recipe/treatments.ts';
import { folderWithin, proposedName, safeFolder } from './arrival-names.ts';
import { hasShape, ruleBreaks, ruleFor, shapeOf, shrunkSize, SITE_RULE, type FolderRule } from './rules.ts';

const rule = (values: Partial<FolderRule>): FolderRule => ({
  ...SITE_RULE,
  largestSide: null,
  largestBytes: null,
  ...values,
});
const file = (values: Partial<Checked> = {}): Checked => ({
  givenName: 'dome.jpg',
  name: 'dome.jpg',
  plainName: 'dome.jpg',
  folder: 'images',
  kind: 'image',
  mime: 'image/jpeg',
  convertible: null,
  bytes: 500_000,
  width: 1600,
  height: 1000,
  readyBytes: null,
  frames: 1,
  private: { place: false, device: false, stays: false },
  keepPrivate: false,
  archive: null,
  notes: [],
  described: true,
  same: [],
  twin: null,
  namesake: null,
  alike: [],
  clash: null,
  rule: rule({}),
  choices: {},
  recipe: null,
  ...values,
});
const codes = (checked: Checked) => findingsOf(checked).map((one) => one.code);
const other = { itemId: 7, path: 'images/other.jpg', width: 3200, height: 2000, bytes: 9 };

describe('rules of folders', () => {
  test('the nearest folder above decides; a folder whose name only begins alike does not', () => {
    const rules = [rule({ folder: 'images' }), rule({ folder: 'images/hero' }), rule({ folder: 'im' })];
    expect(ruleFor('images/hero/2026', rules).folder).toBe('images/hero');
    expect(ruleFor('images/heroes', rules).folder).toBe('images');
    expect(ruleFor('imagesque', rules)).toBe(SITE_RULE);
    expect(ruleFor('', [rule({ folder: '', purpose: 'root' })]).purpose).toBe('root');
  });
  test.each([
    ['3:2', 1.5],
    ['16 / 9', 16 / 9],
    ['1x1', 1],
    ['0:3', undefined],
    ['wide', undefined],
  ])('shape %s', (text, value) => expect(shapeOf(text)).toBe(value));
  test('a shape is met within two in a hundred', () => {
    expect([hasShape(1500, 1000, '3:2'), hasShape(1520, 1000, '3:2'), hasShape(1560, 1000, '3:2')]).toEqual([
      true,
      true,
      false,
    ]);
  });
  test('a panorama goes by its shorter side, and what weighs hardly anything stays', () => {
    const panorama = { width: 12_000, height: 1500, bytes: 5e6, mime: 'image/jpeg', frames: 1 };
    const most = rule({ largestSide: 2000 });
    expect(shrunkSize(panorama, most)).toBeUndefined();
    expect(shrunkSize({ ...panorama, height: 4000 }, most)).toEqual({ width: 6000, height: 2000 });
    expect(shrunkSize({ ...panorama, height: 4001 }, most)).toEqual({ width: 2000, height: 667 });
    const strip = { width: 100, height: 4000, bytes: 90_000, mime: 'image/png', frames: 1 };
    expect(shrunkSize(strip, most)).toBeUndefined();
    const light = { width: 2400, height: 1600, bytes: 15_000, mime: 'image/png', frames: 1 };
    expect(shrunkSize(light, most)).toBeUndefined();
    const shown = { ...panorama, path: 'a/pano.jpg', name: 'pano.jpg', kind: 'image' as const };
    expect(ruleBreaks(shown, most)).toEqual([]);
    expect(ruleBreaks({ ...shown, height: 9000 }, most)).toHaveLength(1);
  });
  test('shrinks the longer side, keeps the shape, never enlarges, leaves animations and drawings alone', () => {
    const picture = { width: 4000, height: 3000, bytes: 5e6, mime: 'image/jpeg', frames: 1 };
    expect(shrunkSize(picture, rule({ largestSide: 2000 }))).toEqual({ width: 2000, height: 1500 });
    expect(
      shrunkSize({ ...picture, width: 2, height: 4, bytes: 5e6 }, rule({ largestSide: 1, largestBytes: 1 })),
    ).toEqual({ width: 1, height: 1 });
    expect(shrunkSize(picture, rule({ largestSide: 8000 }))).toBeUndefined();
    expect(shrunkSize(picture, rule({ largestBytes: 1e6 }))).toEqual({ width: 4000, height: 3000 });
    expect(shrunkSize({ ...picture, frames: 12 }, rule({ largestSide: 2000 }))).toBeUndefined();
    expect(shrunkSize({ ...picture, mime: 'image/svg+xml' }, rule({ largestSide: 2000 }))).toBeUndefined();
  });
});

describe('findings', () => {
  test('a file with nothing to say of it has none and is brought in', () => {
    expect(codes(file())).toEqual([]);
    expect(outcomeOf(file())).toEqual({ do: 'bring-in' });
  });
  test('the same bytes: that item is used unless both are wanted; nothing else is asked of what is not stored', () => {
    const same = file({ same: [other], alike: [{ ...other, turned: false }], described: false });
    expect(codes(same)).toEqual(['same']);
    expect(outcomeOf(same)).toEqual({ do: 'leave-out', instead: other });
    expect(outcomeOf({ ...same, choices: { same: 'keep' } })).toEqual({ do: 'bring-in' });
  });
  test('the same file twice on the list: the first one is taken, unless both are wanted', () => {
    const second = file({ twin: 'IMG_1.jpg', described: false });
    expect(codes(second)).toEqual(['twin']);
    expect(findingsOf(second)[0]!.text).toContain('“IMG_1.jpg”');
    expect(outcomeOf(second)).toEqual({ do: 'leave-out', instead: null });
    const both = { ...second, choices: { twin: 'keep' } as const };
    expect(codes(both)).toEqual(['twin', 'undescribed']);
    expect(outcomeOf(both)).toEqual({ do: 'bring-in' });
    // The item on the site says more than the list.
    expect(codes({ ...second, same: [other] })).toEqual(['same']);
  });
  test('a look-alike can be replaced only by the same kind of file: its address stays what it is', () => {
    const alike = file({ alike: [{ ...other, turned: true }], choices: { alike: 'replace' } });
    expect(findingsOf(alike)[0]!.text).toContain('mirrored or turned');
    expect(outcomeOf(alike)).toEqual({ do: 'replace', itemId: 7, path: 'images/other.jpg' });
    const png = { ...alike, name: 'dome.png', plainName: 'dome.png' };
    expect(findingsOf(png)[0]!.remedies.map((one) => one.key)).toEqual(['keep', 'skip']);
    expect(outcomeOf(png)).toEqual({ do: 'bring-in' });
    expect(outcomeOf({ ...alike, choices: { alike: 'skip' } })).toMatchObject({ do: 'leave-out' });
  });
  test('a name that is taken gets a number, or its item a new version', () => {
    const clash = file({ clash: other });
    expect(findingsOf(clash)[0]).toMatchObject({ code: 'clash', chosen: 'number' });
    expect(outcomeOf(clash)).toEqual({ do: 'bring-in' });
    expect(outcomeOf({ ...clash, choices: { clash: 'replace' } })).toMatchObject({
      do: 'replace',
      itemId: 7,
    });
  });
  test('an archive does nothing before an answer', () => {
    const zip = file({ archive: { files: 3, bytes: 5000 }, kind: 'other', mime: 'application/zip' });
    expect(outcomeOf(zip)).toEqual({ do: 'ask' });
    expect(outcomeOf({ ...zip, choices: { archive: 'keep' } })).toEqual({ do: 'bring-in' });
    expect(outcomeOf({ ...zip, choices: { archive: 'unpack' } })).toEqual({ do: 'unpack' });
  });
  test('an archive that cannot be unpacked says why, and is kept as one file whatever was chosen', () => {
    const zip = file({ archive: { files: 0, bytes: 0, fault: 'It points outside.' }, kind: 'other' });
    expect(findingsOf(zip)[0]!.text).toBe('It can’t be unpacked: It points outside.');
    expect(outcomeOf({ ...zip, choices: { archive: 'unpack' } })).toEqual({ do: 'bring-in' });
  });
  test('two files of one list that want one name: the second is told that it gets a number', () => {
    expect(codes(file({ namesake: 'Dome.JPG' }))).toEqual(['namesake']);
    expect(codes(file({ namesake: 'Dome.JPG', clash: other }))).toEqual(['clash']);
  });
  test('too small for its purpose is told with both sizes; either side alone counts', () => {
    const small = file({ rule: rule({ leastHeight: 1200, purpose: 'posters' }) });
    expect(findingsOf(small)[0]!.text).toContain('1600 × 1000 px, a height of 1200 px wanted for posters');
    expect(outcomeOf({ ...small, choices: { small: 'skip' } })).toEqual({ do: 'leave-out', instead: null });
    expect(codes(file({ rule: rule({ leastWidth: 1600, leastHeight: 1000 }) }))).toEqual([]);
    expect(codes(file({ rule: rule({ shape: '1:1' }) }))).toEqual(['shape']);
  });
  test('the site may keep places and serial numbers; a person decides otherwise for each file', () => {
    const kept = file({ private: { place: true, device: true, stays: false }, keepPrivate: true });
    expect(preparationOf(kept).removePrivate).toBe(false);
    expect(preparationOf({ ...kept, choices: { place: 'remove' } }).removePrivate).toBe(true);
    expect(preparationOf({ ...kept, keepPrivate: false }).removePrivate).toBe(true);
  });
  test('what browsers do not show is converted where it can be, unless a person keeps it', () => {
    const sent = file({ name: 'a.heic', mime: 'image/heic' });
    const type = (one: Checked) => findingsOf(one).find((found) => found.code === 'type');
    expect(type(sent)).toMatchObject({ weight: 'warns', remedies: [] });
    expect(preparationOf(sent).recipe).toBeUndefined();
    const convertible = { ...sent, convertible: 'image/heic' };
    expect(type(convertible)).toMatchObject({ weight: 'tells', chosen: 'convert' });
    expect(preparationOf(convertible).recipe?.file).toEqual({ format: 'jpeg', quality: 90 });
    const kept = { ...convertible, choices: { type: 'keep' as const } };
    expect(type(kept)).toMatchObject({ weight: 'warns', chosen: 'keep' });
    expect(preparationOf(kept).recipe).toBeUndefined();
    // What it becomes is shown.
    expect(type(file({ name: 'a.jpg', convertible: 'image/heic' }))?.text).toContain('HEIC');
    expect(type(file({ name: 'a.jpg' }))).toBeUndefined();
  });

  test('what is prepared follows the choices: shrunk and without its place by default', () => {
    const large = file({
      rule: rule({ largestSide: 800 }),
      private: { place: true, device: false, stays: false },
    });
    expect(codes(large)).toEqual(['heavy', 'place']);
    expect(preparationOf(large)).toEqual({
      recipe: { version: 1, size: { by: 'width', width: 800 } },
      removePrivate: true,
    });
    expect(preparationOf({ ...large, choices: { heavy: 'keep', place: 'keep' } })).toEqual({
      recipe: undefined,
      removePrivate: false,
    });
    const light = file({ rule: rule({ largestBytes: 100_000 }), height: 3000 });
    expect(preparationOf(light).recipe).toEqual({ version: 1, file: { quality: { mostBytes: 100_000 } } });
  });
  test('what a person edited is told, judged by what it becomes, and brought within the limits of the folder', () => {
    const square: Recipe = {
      version: 1,
      frame: { x: 0.1875, y: 0, width: 0.625, height: 1, ratio: [1, 1] },
    };
    const strict = rule({ shape: '1:1', leastWidth: 900, largestSide: 900 });
    const sent = file({ rule: strict });
    expect(codes(sent)).toEqual(['shape', 'heavy']);
    const edited = { ...sent, recipe: square };
    expect(codes(edited)).toEqual(['edited', 'heavy']);
    expect(findingsOf(edited)[0]!.text).toBe('Edited: Cropped to 1:1.');
    expect(findingsOf(edited)[1]!.text).toContain('1000 × 1000 px');
    expect(preparationOf(edited).recipe).toEqual({ ...square, size: { by: 'width', width: 900 } });
    expect(preparationOf({ ...edited, choices: { heavy: 'keep' } }).recipe).toEqual(square);
    // What crops to a size goes on cropping to its shape.
    const cover: Recipe = { version: 1, size: { by: 'cover', width: 1200, height: 600 } };
    expect(preparationOf({ ...sent, recipe: cover }).recipe).toEqual({
      version: 1,
      size: { by: 'cover', width: 900, height: 450 },
    });
    // What is edited is written anew, so it becomes what browsers show.
    const phone = { ...edited, convertible: 'image/heic', choices: { type: 'keep' as const } };
    expect(preparationOf(phone).recipe?.file?.format).toBe('jpeg');
    expect(findingsOf(phone).find((one) => one.code === 'type')).toMatchObject({
      chosen: 'convert',
      remedies: [],
    });
  });
  test('the treatment of a folder is offered and applied unless the image stays, or was edited; films and drawings stay', () => {
    const treatment = TREATMENTS.find((one) => one.name === 'Event gallery')!;
    const treated = file({ rule: rule({ treatment }) });
    expect(findingsOf(treated)).toMatchObject([{ code: 'treat', chosen: 'treat' }]);
    expect(preparationOf(treated).recipe).toEqual(treatment.recipe);
    expect(preparationOf({ ...treated, choices: { treat: 'keep' } }).recipe).toBeUndefined();
    const own: Recipe = { version: 1, tone: { blackAndWhite: true } };
    expect(preparationOf({ ...treated, recipe: own }).recipe).toEqual(own);
    for (const not of [{ mime: 'image/svg+xml' }, { mime: 'image/gif', frames: 8 }, { kind: 'video' }])
      expect(preparationOf({ ...treated, ...not }).recipe).toBeUndefined();
  });
  test('Upkeep tells which images are not as the treatment of their folder makes them', () => {
    const treatment = TREATMENTS.find((one) => one.name === 'Event gallery')!;
    const breaks = (values: { mime?: string; width?: number; height?: number }) =>
      ruleBreaks(
        {
          path: 'images/a.jpg',
          kind: 'image',
          mime: 'image/jpeg',
          width: 800,
          height: 533,
          bytes: 90_000,
          ...values,
        },
        rule({ treatment }),
      );
    expect(breaks({})).toEqual([]);
    expect(breaks({ width: 300, height: 200 })).toEqual([]);
    expect(breaks({ mime: 'image/png' })[0]).toBe('The folder’s treatment “Event gallery” makes JPEG files.');
    expect(breaks({ width: 1600, height: 1066 })[0]).toContain('800 × 533 px');
    const shop = TREATMENTS.find((one) => one.shape?.how === 'subject')!;
    expect(
      ruleBreaks(
        { path: 'a.jpg', kind: 'image', mime: 'image/jpeg', width: 900, height: 600, bytes: 1 },
        rule({ treatment: shop }),
      )[0],
    ).toContain('the shape 1:1');
  });
  test('an image without alt text waits in Describe; a sound does not', () => {
    expect(codes(file({ described: false }))).toEqual(['undescribed']);
    expect(codes(file({ described: false, kind: 'audio', name: 'talk.mp3', plainName: 'talk.mp3' }))).toEqual(
      [],
    );
  });
});

describe('proposed names', () => {
  const known = { title: '', takenAt: null, folder: 'images/events' };
  test.each([
    ['Dome At Night.JPG', '.jpg', known, 'dome-at-night.jpg'],
    ['IMG_2201.JPG', '.jpg', { ...known, title: 'The great dome, by day' }, 'the-great-dome-by-day.jpg'],
    ['IMG_2201.JPG', '.jpg', known, 'events-2201.jpg'],
    ['DSC_0044.JPG', '.jpg', { ...known, takenAt: '2026-08-12T23:14:05' }, 'events-2026-08-12-0044.jpg'],
    ['IMG_2201.JPG', '.jpg', { ...known, folder: 'uploads' }, 'img-2201.jpg'],
    ['IMG_1.JPG', '.jpg', { ...known, folder: '' }, 'img-1.jpg'],
    ['x.php.jpg', '.jpg', { ...known, folder: '' }, 'x-php.jpg'],
    ['../../etc/passwd', '.png', { ...known, folder: '' }, 'passwd.png'],
  ])('%s', (given, extension, about, name) => {
    expect(proposedName(given, extension, about).name).toBe(name);
  });
  test.each([
    ['Open Nights/Friday 12', 'open-nights/friday-12'],
    ['../../etc', 'etc'],
    ['/./a//b/', 'a/b'],
    ['Größe/.hidden/v1.2', 'grosse/hidden/v1-2'],
    ['con/aux', 'con-file/aux-file'],
    ['', ''],
  ])('folders of a tree: %s', (given, safe) => expect(safeFolder(given)).toBe(safe));
  test('a folder in the root, and none below', () => {
    expect([folderWithin('', 'a'), folderWithin('a', ''), folderWithin('a', 'b/c')]).toEqual([
      'a',
      'a',
      'a/b/c',
    ]);
  });
});
