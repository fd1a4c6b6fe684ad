import type { Edit, Made } from './recipe.ts';
import type { Scene, Weather } from './sky/scene.ts';

/** What years of many hands leave behind, planted on purpose; the truth for the tests stands in faults.ts. */
export function addLeftovers(items: Made[], seed: string): void {
  const picture = (
    path: string,
    scene: Scene,
    width = 1200,
    more: Partial<Made> & { edit?: Edit; format?: 'jpg' | 'png'; quality?: number } = {},
  ) => {
    const { edit, format = 'jpg', quality, ...words } = more;
    items.push({
      path,
      recipe: {
        make: 'picture',
        scene,
        width,
        height: Math.round((width * 2) / 3),
        format,
        ...(quality ? { quality } : {}),
        ...(edit ? { edit } : {}),
      },
      ...words,
    });
  };
  for (let i = 1; i <= 13; i++) {
    picture(
      `uploads/2024/IMG_${4310 + i * 7}.JPG`,
      {
        motif: (['dome', 'trails', 'milkyway'] as const)[i % 3]!,
        seed: `${seed} camera ${i}`,
        weather: 'night',
      },
      1600,
    );
  }
  picture(
    'uploads/2024/Screenshot 2024-08-12 at 22.41.07.png',
    { motif: 'mars', seed: `${seed} grab` },
    900,
    { format: 'png' },
  );
  picture('uploads/2025/Open Night Poster FINAL (2).png', { motif: 'comet', seed: `${seed} poster` }, 1000, {
    format: 'png',
  });
  picture('uploads/2025/Members Gallery Header.jpg', { motif: 'nebula', seed: `${seed} header` }, 1500);
  picture('uploads/2025/DSC_0192.jpg', { motif: 'dome', seed: `${seed} unused dusk`, weather: 'dusk' }, 1500);
  picture(
    'uploads/2025/dsc_0193.jpg',
    { motif: 'dome', seed: `${seed} unused storm`, weather: 'storm' },
    1500,
  );
  picture('uploads/2025/WhatsNew.jpg', { motif: 'galaxy', seed: `${seed} unused galaxy` }, 1100);
  picture('uploads/2025/banner_old.jpg', { motif: 'milkyway', seed: `${seed} unused banner` }, 1800);
  // The same picture in other bytes.
  const lantern: Scene = { motif: 'galaxy', seed: `${seed} Lantern` };
  picture('uploads/2025/lantern-small.jpg', lantern, 800, { quality: 70 });
  picture('uploads/2025/lantern-reexport.jpg', lantern, 1600, { quality: 60 });
  picture('uploads/2025/lantern-detail.jpg', lantern, 1000, { edit: 'crop' });
  picture(
    'uploads/2025/dome-aurora-bright.jpg',
    { motif: 'dome', seed: `${seed} aurora`, weather: 'aurora' },
    1200,
    { edit: 'brighter' },
  );
  // Agency pictures with and without rights.
  picture('images/press/comet-agency.jpg', { motif: 'comet', seed: `${seed} agency` }, 1400, {
    title: 'Comet over the moor',
    alt: 'A comet with two tails above the horizon',
    creator: 'Farrow & Finch Pictures',
    licence: 'Farrow & Finch Pictures, web use until end of term',
    licenceEnd: '2025-12-31',
    tags: ['press'],
  });
  picture('images/press/sun-agency.jpg', { motif: 'sun', seed: `${seed} agency sun` }, 1400, {
    title: 'Sunspots',
    alt: 'The Sun with a group of dark spots',
    tags: ['press'],
  });
  // A script puts these together from a list of names.
  for (const name of ['tonight-clear', 'tonight-cloudy', 'tonight-fog', 'tonight-moonlit']) {
    const weather: Weather = (
      {
        'tonight-clear': 'night',
        'tonight-cloudy': 'storm',
        'tonight-fog': 'fog',
        'tonight-moonlit': 'dusk',
      } as const
    )[name] as Weather;
    picture(`images/tonight/${name}.jpg`, { motif: 'dome', seed: `${seed} ${name}`, weather }, 800, {
      alt: name.replace('-', ' '),
      title: name.replace('-', ' '),
    });
  }
  items.push({
    path: 'documents/old/leaflet-open-nights-2019.pdf',
    recipe: { make: 'pdf', title: 'open nights 2019', pages: 2 },
  });
  items.push({
    path: 'documents/old/volunteers.csv',
    recipe: {
      make: 'table',
      rows: [
        ['name', 'evening'],
        ['Ottilie Marrow', 'Friday'],
        ['Ben Thistlewick', 'Saturday'],
      ],
    },
  });
  for (const [path, of] of COPIES) items.push({ path, recipe: { make: 'copy', of } });
}

/** Byte-identical files: [the copy, the file it copies]. */
export const COPIES: readonly [string, string][] = [
  ['uploads/2024/moon.jpg', 'images/moon/moon-full.jpg'],
  ['uploads/2025/moon-full-1.jpg', 'images/moon/moon-full.jpg'],
  ['uploads/2025/Saturn.jpg', 'images/planets/saturn-june.jpg'],
  ['images/events/dome-snow.jpg', 'images/dome/dome-snow.jpg'],
  ['uploads/2025/logo.svg', 'images/drawings/logo.svg'],
  ['documents/old/sky-chart-winter.pdf', 'documents/sky-chart-winter.pdf'],
];
