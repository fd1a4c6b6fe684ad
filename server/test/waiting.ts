import { monitorEventLoopDelay } from 'node:perf_hooks';
import { picture, siteFolder } from './site.ts';

/** Milliseconds for which nothing else may be kept waiting; the aim is 50, a busy machine takes more. */
export const LONGEST = 1000;

/** Answers, once the work is done, for how many milliseconds this thread did nothing else at most. */
export function longestWait(): () => number {
  const delay = monitorEventLoopDelay({ resolution: 5 });
  delay.enable();
  return () => {
    delay.disable();
    return delay.max / 1e6;
  };
}

export const get = async (address: string): Promise<[number, unknown]> => {
  const answer = await fetch(address);
  const text = await answer.text();
  return [answer.status, answer.headers.get('content-type')?.includes('json') ? JSON.parse(text) : text];
};

/** A site with texts that take parsers long, and files that nobody is to see. */
export const hostileSite = async (): Promise<string> =>
  siteFolder({
    'index.html': '<title>x</title><link rel=stylesheet href=deep.css><img src="a.png">',
    'deep.css': '.a'.repeat(100_000),
    'rows.html': `<title>x</title><img src="a.png">${'<p>'.repeat(30_000)}`,
    'odd.html':
      '<title>x</title><img src="a.png"><img src="%zz/a.png"><img src="a.png?%"><img src="https://other.example/a.png">',
    'quotes.md': `![A](a.png)\n${'> '.repeat(15_000)}`,
    'a.png': await picture(1),
    'config.php': '<?php $password = "moon";',
    'dump.sql': 'insert into person',
    '.env': 'KEY=moon',
  });
