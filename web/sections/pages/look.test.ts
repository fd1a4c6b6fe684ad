import { describe, expect, test } from 'vitest';
import type { PageDetail, ShownView } from '../../../api/pages.ts';
import { inOrder, shownWidth, type Measured } from './look.ts';

const box = (starts: number[], more: Partial<Measured> = {}): Measured => ({
  starts,
  number: 1,
  width: 300,
  height: 200,
  naturalWidth: 1200,
  naturalHeight: 800,
  cropped: false,
  background: false,
  ...more,
});

describe('how wide an image is shown', () => {
  test('as wide as its box, when it has the shape of it', () => {
    expect(shownWidth(box([1]))).toBe(300);
    expect(shownWidth(box([1], { width: 300.2, height: 200.1 }))).toBe(301);
  });
  test('wider than its box, when its sides are cropped off', () => {
    expect(shownWidth(box([1], { width: 100, cropped: true }))).toBe(300);
  });
  test('as wide as its box, when it is cropped above and below', () => {
    expect(shownWidth(box([1], { height: 50, cropped: true }))).toBe(300);
  });
  test('not at all, when it is no image or was not loaded', () => {
    expect(shownWidth(box([1], { naturalWidth: 0 }))).toBe(0);
    expect(shownWidth(box([1], { naturalHeight: 0, background: true }))).toBe(0);
  });
});

describe('the order of what a page shows', () => {
  const shown = (at: number, page = 'p.html') => ({ at, page }) as ShownView;
  const page = (...all: ShownView[]) => ({ path: 'p.html', shown: all }) as PageDetail;
  const ordered = (detail: PageDetail, measured: Measured[]) => inOrder(detail, measured).map(({ at }) => at);

  test('is that of the drawn page, not that of its source', () => {
    const measured = [box([30], { number: 1 }), box([10], { number: 2 }), box([20], { number: 3 })];
    expect(ordered(page(shown(10), shown(20), shown(30)), measured)).toEqual([30, 10, 20]);
  });
  test('what is not drawn stands behind what it is written behind', () => {
    const measured = [box([30], { number: 1 }), box([10], { number: 2 })];
    expect(ordered(page(shown(10), shown(20), shown(30)), measured)).toEqual([30, 10, 20]);
    expect(ordered(page(shown(5), shown(10), shown(30)), measured)).toEqual([5, 30, 10]);
  });
  test('what a style sheet shows is there only where it is drawn', () => {
    const sheet = shown(7, 'site.css');
    expect(ordered(page(shown(10), sheet), [box([10])])).toEqual([10]);
    expect(ordered(page(shown(10), sheet), [box([7], { number: 1 }), box([10], { number: 2 })])).toEqual([
      7, 10,
    ]);
  });
  test('a link around an image goes with it', () => {
    expect(ordered(page(shown(4), shown(10)), [box([10, 4])])).toEqual([4, 10]);
  });
});
