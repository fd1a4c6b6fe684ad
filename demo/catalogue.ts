import { Chance } from './chance.ts';
import { addLeftovers } from './leftovers.ts';
import type { Made } from './recipe.ts';
import type { Scene, Weather } from './sky/scene.ts';
import { PEOPLE, LICENCE, GALAXIES, NEBULAE, CLUSTERS, slug, pair, starTable } from './sky.ts';

/** Every item of the demo site, in a fixed order. */
export function catalogue(seed: string): Made[] {
  const chance = new Chance(`${seed} catalogue`);
  const items: Made[] = [];
  const by = () => ({ creator: chance.pick(PEOPLE), licence: LICENCE });

  for (const name of GALAXIES) {
    const words = {
      title: `The ${name} galaxy`,
      alt: `Spiral galaxy with a bright yellow core and blue arms, the ${name}, among faint stars`,
      caption: `Six hours through the half-metre reflector.`,
      tags: ['deep sky', 'galaxy'],
      ...by(),
    };
    pair(items, `images/sky/deep/galaxy-${slug(name)}`, { motif: 'galaxy', seed: `${seed} ${name}` }, words);
  }
  for (const name of NEBULAE) {
    const words = {
      title: `The ${name} nebula`,
      alt: `Glowing clouds of gas crossed by dark dust lanes: the ${name} nebula`,
      tags: ['deep sky', 'nebula'],
      ...by(),
    };
    pair(items, `images/sky/deep/nebula-${slug(name)}`, { motif: 'nebula', seed: `${seed} ${name}` }, words);
  }
  for (const name of CLUSTERS) {
    const words = {
      title: name,
      alt: `Hundreds of stars crowded into a ball of light, the cluster ${name}`,
      tags: ['deep sky', 'cluster'],
      ...by(),
    };
    pair(
      items,
      `images/sky/deep/cluster-${slug(name)}`,
      { motif: 'cluster', seed: `${seed} ${name}` },
      words,
    );
  }
  const phases: [string, number, string][] = [
    ['waxing-crescent', 0.14, 'A thin crescent Moon with long shadows in its craters'],
    ['first-quarter', 0.26, 'The half Moon, craters sharp along the line between day and night'],
    ['waxing-gibbous', 0.38, 'A bulging Moon, most of its face in sunlight'],
    ['full', 0.5, 'The full Moon, bright and without shadows, its dark seas clear'],
    ['waning-gibbous', 0.62, 'The Moon a few nights past full, its right edge fading'],
    ['last-quarter', 0.74, 'The other half Moon, as it stands high at dawn'],
  ];
  for (const [name, phase, alt] of phases) {
    pair(
      items,
      `images/moon/moon-${name}`,
      { motif: 'moon', seed: `${seed} ${name}`, phase },
      { title: `Moon, ${name.replace('-', ' ')}`, alt, tags: ['Moon'], ...by() },
      1400,
      1050,
    );
  }
  const planets: [Scene['motif'], number, string][] = [
    ['jupiter', 3, 'Jupiter with its brown and cream bands and the great red spot'],
    ['saturn', 3, 'Saturn with its rings tilted towards us'],
    ['mars', 3, 'Mars, orange with dark plains and a white polar cap'],
    ['sun', 3, 'The Sun through a filter, with several dark sunspots'],
  ];
  for (const [motif, count, alt] of planets) {
    for (let i = 1; i <= count; i++) {
      const name = `${motif}-${['march', 'june', 'october'][i - 1]}`;
      pair(
        items,
        `images/planets/${name}`,
        { motif, seed: `${seed} ${name}` },
        {
          title: `${motif[0]!.toUpperCase()}${motif.slice(1)} in ${name.split('-')[1]}`,
          alt,
          tags: [motif],
          ...by(),
        },
        1400,
        1050,
      );
    }
  }
  for (const name of [
    'north-pole',
    'over-the-dome',
    'winter-circle',
    'midsummer',
    'old-wall',
    'cairn',
    'mill-pond',
  ]) {
    pair(
      items,
      `images/trails/star-trails-${name}`,
      { motif: 'trails', seed: `${seed} ${name}` },
      {
        title: `Star trails: ${name.replaceAll('-', ' ')}`,
        alt: `Stars drawn into circles above the dark moor, ${name.replaceAll('-', ' ')}`,
        tags: ['star trails'],
        ...by(),
      },
    );
  }
  const weathers: Weather[] = ['dusk', 'night', 'snow', 'fog', 'aurora', 'morning', 'storm'];
  for (const weather of weathers) {
    const alt = `The observatory’s dome on its hill, ${{ dusk: 'against an orange evening sky', night: 'under a clear starry night', snow: 'in falling snow', fog: 'half hidden in fog', aurora: 'below green curtains of northern lights', morning: 'in the first light of the morning', storm: 'as lightning strikes behind it' }[weather]}`;
    pair(
      items,
      `images/dome/dome-${weather}`,
      { motif: 'dome', seed: `${seed} ${weather}`, weather },
      { title: `The dome: ${weather}`, alt, tags: ['dome'], ...by() },
    );
  }
  for (const name of ['open-night', 'school-visit', 'perseids', 'members-evening']) {
    const scene: Scene = { motif: name === 'perseids' ? 'comet' : 'milkyway', seed: `${seed} ${name}` };
    items.push({
      path: `images/events/${name}.jpg`,
      recipe: { make: 'picture', scene, width: 1600, height: 1067, format: 'jpg' },
      title: name.replace('-', ' '),
      alt: `The night sky above the dome on the evening of the ${name.replace('-', ' ')}`,
      tags: ['events'],
      ...by(),
    });
  }
  // Straight from the camera: up to 12 megapixels, far larger than where they are shown.
  items.push({
    path: 'images/hero/milky-way-over-corvane-hill.jpg',
    recipe: {
      make: 'picture',
      scene: { motif: 'milkyway', seed: `${seed} hero` },
      width: 4242,
      height: 2828,
      format: 'jpg',
      quality: 88,
    },
    title: 'The Milky Way over Corvane Hill',
    alt: 'The Milky Way rises behind the dome, whose windows glow',
    tags: ['dome'],
    ...by(),
  });
  items.push({
    path: 'images/hero/evening-at-the-dome.jpg',
    recipe: {
      make: 'picture',
      scene: { motif: 'dome', seed: `${seed} hero two`, weather: 'dusk' },
      width: 3600,
      height: 1500,
      format: 'jpg',
      quality: 86,
    },
    title: 'Evening at the dome',
    alt: 'The dome before a red evening sky',
    tags: ['Domes'],
    ...by(),
  });

  for (const [index, name] of [...GALAXIES.slice(0, 4), ...NEBULAE.slice(0, 3)].entries()) {
    const scene: Scene =
      index < 4 ? { motif: 'galaxy', seed: `${seed} ${name}` } : { motif: 'nebula', seed: `${seed} ${name}` };
    items.push({
      path: `images/shop/print-${slug(name)}.jpg`,
      recipe: { make: 'product', product: 'print', scene, size: 900, format: 'jpg' },
      title: `Print: ${name}`,
      alt: `Framed print of the ${name}`,
      tags: ['shop', 'print'],
      creator: 'Ines Cobbledale',
      licence: LICENCE,
    });
  }
  for (const [index, name] of ['northern-sky', 'southern-sky', 'children'].entries()) {
    items.push({
      path: `images/shop/star-wheel-${name}.webp`,
      recipe: {
        make: 'product',
        product: 'wheel',
        scene: { motif: 'cluster', seed: `${seed} wheel ${index}` },
        size: 900,
        format: 'webp',
      },
      title: `Star wheel, ${name.replace('-', ' ')}`,
      alt: `Round star wheel of card, ${name.replace('-', ' ')}`,
      tags: ['shop', 'star wheel'],
      creator: 'Ines Cobbledale',
      licence: LICENCE,
    });
  }
  for (const name of ['saturn', 'comet', 'dome', 'moon']) {
    items.push({
      path: `images/shop/pin-${name}.png`,
      recipe: {
        make: 'product',
        product: 'pin',
        scene: {
          motif: name === 'dome' ? 'dome' : name === 'comet' ? 'comet' : name === 'moon' ? 'moon' : 'saturn',
          seed: `${seed} pin`,
        },
        size: 800,
        format: 'png',
      },
      title: `Enamel pin: ${name}`,
      alt: `Enamel pin in the shape of a disc with a ${name}`,
      tags: ['shop', 'pin'],
    });
  }
  for (const drawing of [
    'logo',
    'map',
    'refractor',
    'light-curve',
    'eclipse',
    'icon-clock',
    'icon-ticket',
    'icon-bus',
  ]) {
    items.push({
      path: `images/drawings/${drawing}.svg`,
      recipe: { make: 'drawing', drawing },
      title: `Drawing: ${drawing}`,
      alt:
        drawing === 'map'
          ? 'Map of the moor with the way from Corvane Water to the dome'
          : `Drawing: ${drawing.replace('-', ' ')}`,
      tags: ['drawing'],
      creator: 'Piet Larkspur',
      licence: LICENCE,
    });
  }
  items.push({ path: 'favicon.ico', recipe: { make: 'icon' } });

  for (const [name, seconds, format] of [
    ['how-far-is-a-star', 24, 'mp3'],
    ['the-moor-at-night', 20, 'ogg'],
    ['listening-to-jupiter', 18, 'mp3'],
    ['welcome', 6, 'wav'],
  ] as const) {
    items.push({
      path: `media/talks/${name}.${format}`,
      recipe: { make: 'sound', seconds, format },
      title: `Talk: ${name.replaceAll('-', ' ')}`,
      tags: ['talk'],
      creator: chance.pick(PEOPLE),
      licence: LICENCE,
    });
  }
  for (const [name, from] of [
    ['clouds-over-the-dome', { motif: 'dome', seed: `${seed} film one`, weather: 'morning' }],
    ['a-night-in-eight-seconds', { motif: 'milkyway', seed: `${seed} film two` }],
    ['moonrise', { motif: 'moon', seed: `${seed} film three`, phase: 0.5 }],
  ] as [string, Scene][]) {
    items.push({
      path: `media/timelapse/${name}.mp4`,
      recipe: { make: 'film', seconds: 5, from },
      title: `Time-lapse: ${name.replaceAll('-', ' ')}`,
      tags: ['time-lapse'],
      creator: 'Piet Larkspur',
      licence: LICENCE,
    });
    items.push({
      path: `media/timelapse/${name}.jpg`,
      recipe: { make: 'picture', scene: from, width: 960, height: 540, format: 'jpg' },
      title: `Poster: ${name.replaceAll('-', ' ')}`,
      alt: 'First picture of the time-lapse',
      tags: ['time-lapse'],
      creator: 'Piet Larkspur',
      licence: LICENCE,
    });
  }
  for (const [name, pages] of [
    ['leaflet-open-nights', 2],
    ['leaflet-schools', 4],
    ['sky-chart-spring', 1],
    ['sky-chart-summer', 1],
    ['sky-chart-autumn', 1],
    ['sky-chart-winter', 1],
    ['annual-report', 8],
  ] as const) {
    items.push({
      path: `documents/${name}.pdf`,
      recipe: { make: 'pdf', title: name.replaceAll('-', ' '), pages },
      title: name.replaceAll('-', ' '),
      tags: ['document'],
      ...(name === 'annual-report' ? {} : { creator: 'Corvane Hill Observatory' }),
      licence: LICENCE,
    });
  }
  items.push({
    path: 'documents/booking-form.docx',
    recipe: { make: 'office', kind: 'docx', title: 'Booking form for schools' },
    title: 'Booking form for schools',
    tags: ['document'],
  });
  items.push({
    path: 'documents/price-list.xlsx',
    recipe: { make: 'office', kind: 'xlsx', title: 'Price list' },
    title: 'Price list of the shop',
    tags: ['document'],
  });
  items.push({
    path: 'documents/bright-stars.csv',
    recipe: { make: 'table', rows: starTable(seed) },
    title: 'Bright stars above Corvane Hill',
    tags: ['document', 'data'],
  });
  items.push({
    path: 'documents/open-nights.ics',
    recipe: { make: 'calendar' },
    title: 'Dates of the open nights',
    tags: ['document'],
  });

  addLeftovers(items, seed);
  return items;
}
