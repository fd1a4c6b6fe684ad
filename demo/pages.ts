import type { Made } from './recipe.ts';

/** What the demo's author knows to be true of the site, because it was planted so. */
export interface Truth {
  /** Items that a parsed reference of some page leads to. */
  placed: Set<string>;
  /** Items whose name stands in a text only (script, JSON, Markdown, feed, CSV). */
  mentioned: Set<string>;
  broken: { page: string; url: string }[];
  altMissing: { page: string; path: string }[];
}

const escape = (text: string) => text.replace(/&/g, '&amp;').replace(/"/g, '&quot;').replace(/</g, '&lt;');
const encode = (path: string) => path.split('/').map(encodeURIComponent).join('/');

/** Writes the demo's pages and notes, while writing, what is true of them. */
export function writePages(items: readonly Made[]): { files: Map<string, string>; truth: Truth } {
  const files = new Map<string, string>();
  const truth: Truth = { placed: new Set(), mentioned: new Set(), broken: [], altMissing: [] };
  const byPath = new Map(items.map((item) => [item.path, item]));
  const need = (path: string) => {
    const item = byPath.get(path);
    if (!item) throw new Error(`the demo has no item ${path}`);
    return item;
  };

  /** The address of an item from a page: relative in folders, root-relative elsewhere, as real sites mix them. */
  const to = (page: string, path: string, rooted = false) => {
    truth.placed.add(need(path).path);
    return rooted ? `/${encode(path)}` : '../'.repeat(page.split('/').length - 1) + encode(path);
  };
  const img = (page: string, path: string, extra = '') =>
    `<img src="${to(page, path)}" alt="${escape(need(path).alt ?? '')}"${extra}>`;
  const noAlt = (page: string, path: string) => {
    truth.altMissing.push({ page, path });
    return `<img src="${to(page, path)}">`;
  };
  const broken = (page: string, url: string, html: string) => {
    truth.broken.push({ page, url });
    return html;
  };
  const figure = (page: string, stem: string) => {
    const item = need(`${stem}.jpg`);
    return `<figure>
  <img src="${to(page, `${stem}-640.jpg`)}" srcset="${to(page, `${stem}-640.jpg`)} 640w, ${to(page, `${stem}.jpg`)} 1600w" sizes="(min-width: 50em) 30vw, 100vw" alt="${escape(item.alt ?? '')}" loading="lazy">
  <figcaption>${escape(item.title ?? '')}. Picture: ${escape(item.creator ?? '')}</figcaption>
</figure>`;
  };

  const nav = (page: string) => {
    const up = '../'.repeat(page.split('/').length - 1);
    return [
      'visit.html:Visit',
      'open-nights.html:Open nights',
      'gallery/index.html:Gallery',
      'shop/index.html:Shop',
      'talks/index.html:Talks',
      'downloads.html:Downloads',
    ]
      .map((entry) => `<a href="${up}${entry.split(':')[0]}">${entry.split(':')[1]}</a>`)
      .join('\n    ');
  };
  const html = (page: string, title: string, body: string, head = '') => {
    const up = '../'.repeat(page.split('/').length - 1);
    files.set(
      page,
      `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<title>${escape(title)} – Corvane Hill Observatory</title>
<meta name="viewport" content="width=device-width, initial-scale=1">
<link rel="canonical" href="https://www.corvane-hill.example/${page}">
<link rel="icon" href="/favicon.ico">
<link rel="stylesheet" href="${up}css/site.css">${head}
</head>
<body>
<header>
  <a href="${up}index.html"><img class="logo" src="${to(page, 'images/drawings/logo.svg')}" alt="Corvane Hill Observatory, home"></a>
  <nav>
    ${nav(page)}
  </nav>
</header>
<main>
<h1>${escape(title)}</h1>
${body}
</main>
<footer><p>Corvane Hill Observatory, Moor Lane 1. <a href="${up}imprint.html">Imprint</a></p></footer>
</body>
</html>
`,
    );
  };

  truth.placed.add('favicon.ico');
  const stems = (folder: string, start = '') =>
    items
      .map((item) => item.path)
      .filter((path) => path.startsWith(`${folder}/${start}`) && path.endsWith('-640.jpg'))
      .map((path) => path.replace(/-640\.jpg$/, ''));

  html(
    'index.html',
    'A dome for everyone',
    `<section class="hero"><p>Every clear Friday the dome opens for all who come up the hill.</p></section>
<h2>Tonight</h2>
<p><img id="tonight" alt="The sky above the dome tonight" src="${to('index.html', 'images/tonight/tonight-clear.jpg')}"></p>
<h2>New in the gallery</h2>
${stems('images/sky/deep')
  .slice(0, 3)
  .map((stem) => figure('index.html', stem))
  .join('\n')}
<h2>From the press</h2>
<p>${img('index.html', 'images/press/comet-agency.jpg', ' width="700" height="467"')}</p>
<p>${noAlt('index.html', 'images/press/sun-agency.jpg')}</p>
<script src="js/site.js"></script>`,
    `
<meta property="og:image" content="https://www.corvane-hill.example/${(truth.placed.add('images/dome/dome-dusk.jpg'), 'images/dome/dome-dusk.jpg')}">
<link rel="alternate" type="application/rss+xml" href="feed.xml">`,
  );
  html(
    'visit.html',
    'Visit us',
    `<p>From the bus stop at Corvane Water it is a walk of twenty minutes.</p>
<p>${img('visit.html', 'images/drawings/map.svg')}</p>
<ul>
<li>${img('visit.html', 'images/drawings/icon-clock.svg')} Fridays from dusk</li>
<li>${img('visit.html', 'images/drawings/icon-ticket.svg')} Four crowns, children free</li>
<li>${img('visit.html', 'images/drawings/icon-bus.svg')} Line 12 to Corvane Water</li>
</ul>
<div style="background-image: url(&quot;${to('visit.html', 'images/dome/dome-fog-640.jpg')}&quot;); height: 12em"></div>
<p><a href="${to('visit.html', 'documents/leaflet-open-nights.pdf')}">Leaflet (PDF)</a></p>`,
  );
  html(
    'open-nights.html',
    'Open nights',
    `<p>The programme follows the weather.</p>
${['open-night', 'perseids', 'members-evening'].map((name) => img('open-nights.html', `images/events/${name}.jpg`)).join('\n')}
<p>${noAlt('open-nights.html', 'uploads/2024/IMG_4317.JPG')}</p>
<p><img src="${to('open-nights.html', 'uploads/2024/IMG_4324.JPG')}" alt="IMG_4324.JPG"></p>
<p><img src="${to('open-nights.html', 'uploads/2024/IMG_4331.JPG')}" alt="image"></p>
<p><img src="${to('open-nights.html', 'uploads/2025/Open Night Poster FINAL (2).png')}" alt="poster"></p>
<p><a href="${to('open-nights.html', 'documents/open-nights.ics')}">All dates for your calendar</a></p>
${broken('open-nights.html', 'images/events/lantern-walk.jpg', '<p><img src="images/events/lantern-walk.jpg" alt="The lantern walk"></p>')}`,
  );
  html(
    'schools.html',
    'For schools',
    `<p>Classes come on Thursdays. ${img('schools.html', 'images/events/school-visit.jpg')}</p>
<p>${img('schools.html', 'images/drawings/refractor.svg')}</p>
<ul><li><a href="${to('schools.html', 'documents/leaflet-schools.pdf')}">Leaflet for schools</a></li>
<li><a href="${to('schools.html', 'documents/booking-form.docx')}">booking-form.docx</a></li></ul>`,
  );
  html(
    'about.html',
    'About the observatory',
    `<p>${img('about.html', 'images/hero/evening-at-the-dome.jpg', ' width="900" height="375"')}</p>
<p>The dome was built by members, stone by stone. ${img('about.html', 'images/drawings/light-curve.svg')}</p>
<p>${img('about.html', 'images/drawings/eclipse.svg')}</p>
${broken('about.html', '/images/Dome/dome-night.jpg', '<p><img src="/images/Dome/dome-night.jpg" alt="The dome at night"></p>')}
<p><a href="${to('about.html', 'documents/annual-report.pdf', true)}#page=3">Annual report</a></p>`,
  );
  // A size of it is shown in the gallery of the dome.
  truth.placed.add('images/dome/dome-night.jpg');
  html('contact.html', 'Contact', '<p>Write to us on paper, or come by.</p>');
  html(
    'imprint.html',
    'Imprint',
    '<p>Corvane Hill Observatory Society. <!-- old logo: logo-1998.gif --></p>',
  );
  html(
    'downloads.html',
    'Downloads',
    `<ul>
${['spring', 'summer', 'autumn', 'winter'].map((season) => `<li><a href="${to('downloads.html', `documents/sky-chart-${season}.pdf`)}" title="sky-chart-${season}.pdf">Sky chart, ${season}</a></li>`).join('\n')}
<li><a href="${to('downloads.html', 'documents/price-list.xlsx')}">Price list</a></li>
<li><a href="${to('downloads.html', 'documents/bright-stars.csv')}">Bright stars</a></li>
</ul>
${broken('downloads.html', 'documents/sky-chart-2019.pdf', '<p><a href="documents/sky-chart-2019.pdf">The chart of 2019</a></p>')}`,
  );
  // The hover text names the chart without its folder: that may mean its old copy as well.
  truth.mentioned.add('documents/old/sky-chart-winter.pdf');
  html(
    'press.html',
    'Press',
    `<p>${img('press.html', 'uploads/2025/Members Gallery Header.jpg')}</p><p>Pictures for the press on request.</p>`,
  );
  html('404.html', 'Not found', `<p>${img('404.html', 'images/trails/star-trails-old-wall-640.jpg')}</p>`);

  html(
    'gallery/index.html',
    'Gallery',
    ['deep-sky', 'moon', 'planets', 'star-trails', 'dome']
      .map((name) => `<p><a href="${name}.html">${name.replace('-', ' ')}</a></p>`)
      .join('\n') + `\n${figure('gallery/index.html', 'images/sky/deep/nebula-ember-veil')}`,
  );
  html(
    'gallery/deep-sky.html',
    'Deep sky',
    stems('images/sky/deep')
      .map((stem) => figure('gallery/deep-sky.html', stem))
      .join('\n'),
  );
  html(
    'gallery/moon.html',
    'The Moon',
    stems('images/moon')
      .map((stem) => figure('gallery/moon.html', stem))
      .join('\n'),
  );
  html(
    'gallery/planets.html',
    'Planets and the Sun',
    stems('images/planets')
      .map((stem) => figure('gallery/planets.html', stem))
      .join('\n'),
  );
  html(
    'gallery/star-trails.html',
    'Star trails',
    stems('images/trails')
      .map((stem) => figure('gallery/star-trails.html', stem))
      .join('\n'),
  );
  html(
    'gallery/dome.html',
    'The dome in all weathers',
    stems('images/dome')
      .filter((stem) => !stem.endsWith('dome-night') && !stem.endsWith('dome-dusk'))
      .map((stem) => figure('gallery/dome.html', stem))
      .join('\n') +
      `\n<p>${img('gallery/dome.html', 'images/dome/dome-dusk-640.jpg')}</p>\n<noscript>${img('gallery/dome.html', 'images/dome/dome-night-640.jpg')}</noscript>`,
  );

  const goods = (start: string) => items.filter((item) => item.path.startsWith(`images/shop/${start}`));
  html(
    'shop/index.html',
    'Shop',
    '<p><a href="prints.html">Prints</a>, <a href="star-wheels.html">star wheels</a>, <a href="pins.html">pins</a></p>',
  );
  for (const [page, start, title] of [
    ['shop/prints.html', 'print', 'Prints'],
    ['shop/star-wheels.html', 'star-wheel', 'Star wheels'],
    ['shop/pins.html', 'pin', 'Enamel pins'],
  ] as const) {
    html(
      page,
      title,
      goods(start)
        .map(
          (item) =>
            `<p><img data-src="${to(page, item.path)}" src="${to(page, item.path)}" alt="${escape(item.alt ?? '')}" width="300" height="300"> ${escape(item.title ?? '')}</p>`,
        )
        .join('\n'),
    );
  }
  html(
    'talks/index.html',
    'Talks',
    ['how-far-is-a-star.mp3', 'the-moor-at-night.ogg']
      .map((name) => `<p><audio controls src="${to('talks/index.html', `media/talks/${name}`)}"></audio></p>`)
      .join('\n') +
      `\n<p><audio controls><source src="${to('talks/index.html', 'media/talks/listening-to-jupiter.mp3')}" type="audio/mpeg"></audio></p>`,
  );
  html(
    'timelapse.html',
    'Time-lapse',
    ['clouds-over-the-dome', 'a-night-in-eight-seconds', 'moonrise']
      .map(
        (name) =>
          `<p><video controls width="640" height="360" poster="${to('timelapse.html', `media/timelapse/${name}.jpg`)}" src="${to('timelapse.html', `media/timelapse/${name}.mp4`)}"></video></p>`,
      )
      .join('\n'),
  );

  files.set(
    'css/site.css',
    `/* Corvane Hill Observatory */
body { margin: 0; font: 17px/1.6 Georgia, serif; color: #20303a; background: #fbf8f1; }
header, main, footer { max-width: 60em; margin: 0 auto; padding: 1em; }
nav a { margin-right: 1em; color: #20303a; }
img { max-width: 100%; height: auto; }
figure { display: inline-block; width: 31%; min-width: 15em; margin: 0 1% 1em 0; vertical-align: top; }
figcaption { font-size: 0.85em; color: #5a6468; }
.hero { min-height: 20em; background: #111827 url("../${(truth.placed.add('images/hero/milky-way-over-corvane-hill.jpg'), 'images/hero/milky-way-over-corvane-hill.jpg')}") center / cover; color: #fff; padding: 2em; }
footer { border-top: 1px solid #d8cfbf; background: url(../${(truth.placed.add('images/dome/dome-morning-640.jpg'), 'images/dome/dome-morning-640.jpg')}) right bottom / 8em no-repeat; }
/* .old { background: url(../images/paper.gif) } */
`,
  );
  const tonight = ['tonight-cloudy', 'tonight-fog', 'tonight-moonlit'];
  for (const name of tonight) truth.mentioned.add(`images/tonight/${name}.jpg`);
  files.set(
    'js/site.js',
    `// Shows the picture that fits the weather report.
const folder = '/images/' + 'tonight/';
const pictures = { clear: 'tonight-clear.jpg', clouds: 'tonight-cloudy.jpg', fog: 'tonight-fog.jpg', moon: 'tonight-moonlit.jpg' };
const shown = document.getElementById('tonight');
if (shown) {
  fetch('/data/weather.json')
    .then((answer) => answer.json())
    .then((weather) => {
      shown.src = folder + pictures[weather.sky];
    });
}
`,
  );
  files.set('data/weather.json', `${JSON.stringify({ sky: 'clear', temperature: 4 }, null, 2)}\n`);
  /** An item that data, a feed or a Markdown page shows. */
  const marked = (path: string) => {
    truth.placed.add(need(path).path);
    return path;
  };
  files.set(
    'data/programme.json',
    `${JSON.stringify(
      {
        evenings: [
          { date: '2026-03-27', picture: `/${marked('uploads/2024/IMG_4338.JPG')}` },
          { date: '2026-04-03', picture: `/${marked('images/events/open-night.jpg')}` },
        ],
      },
      null,
      2,
    )}\n`,
  );
  files.set(
    'feed.xml',
    `<?xml version="1.0" encoding="utf-8"?>
<rss version="2.0"><channel><title>Corvane Hill Observatory</title><link>https://www.corvane-hill.example/</link><description>News from the dome</description>
<item><title>Welcome</title><description>A greeting from the dome</description><enclosure url="https://www.corvane-hill.example/${marked('media/talks/welcome.wav')}" length="529244" type="audio/wav"/></item>
</channel></rss>
`,
  );
  files.set('robots.txt', 'User-agent: *\nAllow: /\n');

  const notes: [string, string, string][] = [
    [
      'news/2026-03-01-new-mirror.md',
      'A new mirror',
      `The half-metre mirror is back from its coating.\n\n![The dome in the morning](../${marked('images/dome/dome-morning.jpg')})\n`,
    ],
    [
      'news/2026-02-14-snow-day.md',
      'Snow on the dome',
      `![Snow](/${marked('images/dome/dome-snow.jpg')} "A white day")\n\nThe road is closed above the farm.\n`,
    ],
    [
      'news/2026-01-20-camera-night.md',
      'Camera night',
      `Bring your own camera.\n\n![](../${marked('uploads/2024/IMG_4345.JPG')})\n`,
    ],
    ['news/2025-12-11-geminids.md', 'Shooting stars', 'No picture did them justice.\n'],
    ['notes/how-to-look.md', 'How to look', 'First get used to the dark. It takes twenty minutes.\n'],
    [
      'notes/red-light.md',
      'Red light',
      'A red torch keeps your eyes dark. See `img/torch.png` in the old wiki.\n',
    ],
  ];
  for (const [path, title, body] of notes)
    files.set(path, `---\ntitle: ${title}\n---\n\n# ${title}\n\n${body}`);

  for (const path of truth.placed) truth.mentioned.delete(path);
  return { files, truth };
}
