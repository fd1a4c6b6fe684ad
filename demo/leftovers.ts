import type { Edit, Made } from './recipe.ts';
import type { Scene, Weather } from './sky/scene.ts';

/** What years of many hands leave behind, planted on purpose; the truth for the tests stands in faults.ts. */
export function addLeftovers(items: Made[], seed: string): void {
  const picture = (
    path: string,
    scene: Scene,
    width = 1200,
    more: Partial<Made> & {
      edit?: Edit;
      format?: 'jpg' | 'png';
      quality?: number;
      grain?: number;
      place?: boolean;
    } = {},
  ) => {
    const { edit, format = 'jpg', quality, grain, place, ...words } = more;
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
        ...(grain ? { grain } : {}),
        ...(place ? { place } : {}),
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
      // The phone of a volunteer was not told to keep quiet.
      i === 6 ? { place: true } : {},
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
  // The same image in other bytes.
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
  // Agency images with and without rights.
  picture('images/press/comet-agency.jpg', { motif: 'comet', seed: `${seed} agency` }, 1400, {
    title: 'Comet over the moor',
    alt: 'A comet with two tails above the horizon',
    creator: 'Farrow & Finch Pictures',
    licence: 'Farrow & Finch Pictures, web use with credit until end of term',
    licenceEnd: '2025-12-31',
    tags: ['press'],
  });
  picture('images/press/sun-agency.jpg', { motif: 'sun', seed: `${seed} agency sun` }, 1400, {
    title: 'Sunspots',
    alt: 'The Sun with a group of dark spots',
    tags: ['press'],
  });
  picture('images/press/eclipse-agency.jpg', { motif: 'sun', seed: `${seed} agency eclipse` }, 1400, {
    title: 'The Sun before the eclipse',
    alt: 'The whole Sun, an hour before the Moon reaches it',
    creator: 'Farrow & Finch Pictures',
    licence: 'Farrow & Finch Pictures, web use for one season',
    licenceDays: 20,
    tags: ['press'],
  });
  // In the wrong format, under the wrong name, in the wrong place, torn, or heavier than any visitor can bear.
  picture('uploads/2025/ember-veil-banner.png', { motif: 'nebula', seed: `${seed} heavy banner` }, 1200, {
    format: 'png',
    grain: 14,
    alt: 'Red clouds of gas behind the letters of the open night',
  });
  items.push({
    path: 'uploads/2025/eclipse-board.jpg',
    recipe: { make: 'drawing', drawing: 'eclipse', jpegWidth: 2400 },
    alt: 'Board that shows how the Moon covers the Sun',
  });
  picture('uploads/2025/heron-poster.png', { motif: 'galaxy', seed: `${seed} misnamed` }, 900, {
    alt: 'Poster with a spiral galaxy above the moor',
  });
  picture('dome-old-header.jpg', { motif: 'dome', seed: `${seed} root`, weather: 'fog' }, 1000, {
    alt: 'The dome in fog, from the website of ten years ago',
  });
  picture('uploads/2025/card-reader-error.jpg', { motif: 'milkyway', seed: `${seed} torn` }, 1400, {
    edit: 'torn',
    alt: 'The Milky Way above the car park',
  });
  picture('uploads/2025/screen-in-the-hall.jpg', { motif: 'moon', seed: `${seed} hall`, phase: 0.4 }, 1000, {
    alt: 'image',
  });
  items.push({
    path: 'documents/old/exhibition-print.pdf',
    recipe: {
      make: 'pdf',
      title: 'exhibition print',
      pages: 1,
      scan: { motif: 'nebula', seed: `${seed} scan` },
    },
  });
  items.push({
    path: 'media/old/aurora-from-the-camera.mp4',
    recipe: {
      make: 'film',
      seconds: 2,
      from: { motif: 'dome', seed: `${seed} film uncut`, weather: 'aurora' },
      uncut: true,
    },
    title: 'Aurora, as it came from the camera',
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
