import { describe, expect, test } from 'vitest';
import { redirectRules, RULE_FORMS } from './redirect-rules.ts';
import { readRedirects } from './redirects.ts';

const REDIRECTS = [
  { from: '/img/b%20%22x%22.png', to: '/img/neu%C3%B6.png' },
  { from: '/img/a.png', to: '/img/moon.png' },
];

describe('redirects for web servers', () => {
  test('the table is the same as the file in the site', async () => {
    expect((await readRedirects(await redirectRules(REDIRECTS, 'csv'))).redirects).toEqual([
      REDIRECTS[1],
      REDIRECTS[0],
    ]);
  });
  test('Apache: whole addresses, decoded, as expressions', async () => {
    expect(await redirectRules(REDIRECTS, 'apache')).toBe(
      'RedirectMatch 301 "^/img/a\\\\.png$" "/img/moon.png"\nRedirectMatch 301 "^/img/b \\"x\\"\\\\.png$" "/img/neuö.png"\n',
    );
  });
  test('nginx and Caddy: exact addresses, quoted', async () => {
    expect(await redirectRules(REDIRECTS, 'nginx')).toBe(
      'location = "/img/a.png" { return 301 "/img/moon.png"; }\nlocation = "/img/b \\"x\\".png" { return 301 "/img/neu%C3%B6.png"; }\n',
    );
    expect(await redirectRules(REDIRECTS, 'caddy')).toContain(
      '@moved1 path_regexp `^/img/a\\.png$`\nredir @moved1 "/img/moon.png" permanent\n',
    );
  });
  // Each of these was answered by the server itself with the new address: nginx 1.22, Apache 2.4, Caddy 2.6.
  test.each([
    ['nginx', '/a$1.png', '/b$1.png', 'location = "/a$1.png" { return 301 "/b%241.png"; }'],
    ['apache', '/a$1.png', '/b$1&.png', 'RedirectMatch 301 "^/a\\\\$1\\\\.png$" "/b\\\\$1\\\\&.png"'],
    [
      'apache',
      '/a.png',
      '/q%3F%25.png',
      'RewriteEngine on\nRewriteRule "^/?a\\.png$" "/q\\%3F\\%25.png" [R=301,NE,L]',
    ],
    [
      'caddy',
      '/a%60*.png',
      '/b.png',
      '@moved1 path_regexp `^/a\\x60\\*\\.png$`\nredir @moved1 "/b.png" permanent',
    ],
    [
      'caddy',
      '/a%2520b.png',
      '/b.png',
      '@moved1 path_regexp `^/a%20b\\.png$`\nredir @moved1 "/b.png" permanent',
    ],
  ] as const)('%s takes %s for what it is', async (form, from, to, rule) => {
    expect(await redirectRules([{ from, to }], form)).toBe(`${rule}\n`);
  });
  test('web.config: without the first slash, as markup', async () => {
    const rules = await redirectRules([{ from: '/a&b.png', to: '/c&d.png' }], 'iis');
    expect(rules).toContain('<match url="^a&amp;b\\.png$" ignoreCase="false" />');
    expect(rules).toContain('url="/c&amp;d.png" redirectType="Permanent"');
  });
  test.each(['apache', 'nginx', 'caddy', 'iis'] as const)(
    '%s: an old address with a line break is named in a remark, and begins no line of its own',
    async (form) => {
      const rules = await redirectRules(
        [{ from: '/a%0Adeny all.png'.replace(' ', '%20'), to: '/b.png' }],
        form,
      );
      expect(rules).toContain('not written: /a%0Adeny%20all.png');
      expect(rules).not.toMatch(/^deny/m);
    },
  );
  test.each(RULE_FORMS)('%s: none is an empty list', async (form) => {
    expect(await redirectRules([], form)).not.toContain('undefined');
  });
});
