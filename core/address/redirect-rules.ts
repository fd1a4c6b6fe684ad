import { writeRedirects, type Redirect } from './redirects.ts';

/** Forms in which redirects are handed over: the open table, and the rules of common web servers. */
export const RULE_FORMS = ['csv', 'apache', 'nginx', 'caddy', 'iis'] as const;
export type RuleForm = (typeof RULE_FORMS)[number];

export const RULE_FORM_NAMES: Record<RuleForm, { name: string; file: string; how: string }> = {
  csv: {
    name: 'CSV table',
    file: 'redirects.csv',
    how: 'Two columns, old and new address; any program reads it.',
  },
  apache: {
    name: 'Apache HTTP Server',
    file: 'redirects.htaccess',
    how: 'Add the lines to the site’s .htaccess, or into its part of the server’s settings.',
  },
  nginx: {
    name: 'nginx',
    file: 'redirects.nginx.conf',
    how: 'Include the file in the server block of the site.',
  },
  caddy: { name: 'Caddy', file: 'redirects.Caddyfile', how: 'Import the file in the block of the site.' },
  iis: {
    name: 'Internet Information Services',
    file: 'redirects.web.config',
    how: 'Add the rules to the site’s web.config; they need the URL Rewrite module.',
  },
};

/** Old addresses that rules cannot name: one line of them would end there. */
// eslint-disable-next-line no-control-regex
const UNWRITABLE = /[\u0000-\u001f\u007f]/;

/** Redirects as a file of a form; what its rules cannot name stands in a remark. Addresses are percent-encoded from the root; servers match them decoded. */
export async function redirectRules(all: readonly Redirect[], form: RuleForm): Promise<string> {
  if (form === 'csv') return new TextDecoder().decode(await writeRedirects(all));
  const redirects = all.filter(({ from }) => !UNWRITABLE.test(decoded(from)));
  const remarks = all
    .filter(({ from }) => UNWRITABLE.test(decoded(from)))
    .map(({ from }) =>
      form === 'iis' ? `<!-- not written: ${from.replaceAll('-', '%2D')} -->\n` : `# not written: ${from}\n`,
    );
  return rulesOf(redirects, form) + remarks.join('');
}

function rulesOf(redirects: readonly Redirect[], form: Exclude<RuleForm, 'csv'>): string {
  const sorted = [...redirects].sort((a, b) => (a.from < b.from ? -1 : 1));
  switch (form) {
    case 'apache':
      return sorted.map(apacheRule).join('');
    case 'nginx':
      return sorted
        .map(
          ({ from, to }) =>
            `location = "${quoted(decoded(from))}" { return 301 "${quoted(to.replaceAll('$', '%24'))}"; }\n`,
        )
        .join('');
    case 'caddy':
      // By an expression: a plain path would take % and * in names for something else.
      return sorted
        .map(({ from, to }, index) => {
          const path = expression(decoded(from)).replaceAll('`', '\\x60');
          return `@moved${index + 1} path_regexp \`^${path}$\`\nredir @moved${index + 1} "${quoted(to)}" permanent\n`;
        })
        .join('');
    case 'iis':
      return `<rewrite>\n  <rules>\n${sorted
        .map(
          ({ from, to }, index) =>
            `    <rule name="moved ${index + 1}" stopProcessing="true">\n      <match url="^${markup(expression(decoded(from).slice(1)))}$" ignoreCase="false" />\n      <action type="Redirect" url="${markup(to)}" redirectType="Permanent" appendQueryString="true" />\n    </rule>\n`,
        )
        .join('')}  </rules>\n</rewrite>\n`;
  }
}

/**
 * RedirectMatch, as Redirect would match every address that begins so. It encodes the new address itself, but for ? and #:
 * where those stand in a name, RewriteRule is told not to.
 */
function apacheRule({ from, to }: Redirect): string {
  const path = expression(decoded(from));
  if (/[?#]/.test(decoded(to))) {
    // Its arguments are taken as they are, without escapes of quotes.
    const bare = path.slice(1).replaceAll('"', '\\x22');
    return `RewriteEngine on\nRewriteRule "^/?${bare}$" "${to.replace(/[$%]/g, '\\$&')}" [R=301,NE,L]\n`;
  }
  return `RedirectMatch 301 "^${quoted(path)}$" "${quoted(decoded(to).replace(/[\\$&]/g, '\\$&'))}"\n`;
}

function decoded(address: string): string {
  return decodeURIComponent(address);
}
function expression(text: string): string {
  return text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
}
function quoted(text: string): string {
  return text.replace(/["\\]/g, '\\$&');
}
function markup(text: string): string {
  return text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/"/g, '&quot;');
}
