import { expect, test } from 'vitest';
import { redirectFindings } from './redirects.ts';

const found = (redirects: [string, string][], there: string[]) =>
  redirectFindings(
    redirects.map(([from, to]) => ({ from, to })),
    (address) => there.includes(address),
  ).map(({ check, from, better }) => [check, from, better]);

test('a redirect that leads straight to something is none of our business', () => {
  expect(found([['/old.jpg', '/new.jpg']], ['/new.jpg'])).toEqual([]);
});

test('idle: it leads to nothing, in a circle, or its old address is there again', () => {
  expect(
    found(
      [
        ['/a', '/gone'],
        ['/b', '/c'],
        ['/c', '/b'],
        ['/d', '/new.jpg'],
        ['/e', '/e'],
      ],
      ['/d', '/new.jpg'],
    ),
  ).toEqual([
    ['idle-redirects', '/a', null],
    ['idle-redirects', '/b', null],
    ['idle-redirects', '/c', null],
    ['idle-redirects', '/d', null],
    ['idle-redirects', '/e', null],
  ]);
});

test('a chain leads straight to its end, however long, and stops where something is there', () => {
  expect(
    found(
      [
        ['/a', '/b'],
        ['/b', '/c'],
        ['/c', '/end'],
      ],
      ['/end'],
    ),
  ).toEqual([
    ['redirect-chains', '/a', '/end'],
    ['redirect-chains', '/b', '/end'],
  ]);
  // What is there is served, whatever a redirect says of it.
  expect(
    found(
      [
        ['/a', '/b'],
        ['/b', '/c'],
      ],
      ['/b', '/c'],
    ),
  ).toEqual([['idle-redirects', '/b', null]]);
});
