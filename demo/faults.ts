import type { CheckName } from '../core/upkeep/checks.ts';
import { catalogue } from './catalogue.ts';
import { COPIES } from './leftovers.ts';
import { writePages } from './pages.ts';
import type { Made } from './recipe.ts';

/** The faults planted in the demo site: what a right report of it must say. Known by construction, not by scanning. */
export function plantedFaults(seed: string) {
  const items = catalogue(seed);
  const { truth } = writePages(items);
  const paths = items.map((item) => item.path).sort();
  const groups = new Map<string, string[]>();
  for (const [copy, of] of COPIES) groups.set(of, [...(groups.get(of) ?? [of]), copy]);
  return {
    items: paths,
    placed: paths.filter((path) => truth.placed.has(path)),
    mentioned: paths.filter((path) => truth.mentioned.has(path)),
    unused: paths.filter((path) => !truth.placed.has(path) && !truth.mentioned.has(path)),
    copies: [...groups.values()].map((group) => group.sort()),
    broken: truth.broken,
    altMissing: truth.altMissing,
    /** The same image in other bytes, with what it was made from. */
    alike: [
      [
        'images/sky/deep/galaxy-lantern.jpg',
        'uploads/2025/lantern-small.jpg',
        'uploads/2025/lantern-reexport.jpg',
        'uploads/2025/lantern-detail.jpg',
      ],
      ['images/dome/dome-aurora.jpg', 'uploads/2025/dome-aurora-bright.jpg'],
      ['images/drawings/eclipse.svg', 'uploads/2025/eclipse-board.jpg'],
    ],
    cameraNames: paths.filter((path) => /IMG_|DSC_|dsc_|Screenshot/.test(path)),
  };
}

/** What each check of the library must say of the demo, once its records are written; checks that are not named must say nothing. */
export function plantedFindings(seed: string): Partial<Record<CheckName, string[]>> {
  const items = catalogue(seed);
  const { unused, mentioned, copies, alike } = plantedFaults(seed);
  const shown = items.filter(({ path }) => isPicture(path) && path !== 'favicon.ico');
  const pathsOf = (some: readonly Made[]) => some.map(({ path }) => path).sort();
  const byAlt = new Map<string, Made[]>();
  // Sizes are told with their image.
  for (const item of shown.filter(({ path, alt }) => alt && !/-640\./.test(path)))
    byAlt.set(item.alt!, [...(byAlt.get(item.alt!) ?? []), item]);
  const heroes = ['images/hero/evening-at-the-dome.jpg', 'images/hero/milky-way-over-corvane-hill.jpg'];
  const name = (path: string) => path.slice(path.lastIndexOf('/') + 1);
  return {
    copies: copies.flat().sort(),
    'look-alikes': alike.flat().sort(),
    unused,
    mentioned,
    'no-alt': pathsOf(shown.filter(({ alt }) => !alt)),
    'poor-alt': ['uploads/2025/screen-in-the-hall.jpg'],
    'same-alt': pathsOf([...byAlt.values()].filter((some) => some.length > 1).flat()),
    'page-words': ['images/drawings/logo.svg', 'images/tonight/tonight-clear.jpg'],
    'no-title': ['documents/old/volunteers.csv'],
    names: pathsOf(items.filter(({ path }) => /[A-Z _()]/.test(name(path)))),
    rules: heroes,
    'no-folder': ['dome-old-header.jpg'],
    'near-tags': ['Domes'],
    'lone-tags': ['Domes', 'data'],
    'too-large': heroes,
    format: ['uploads/2025/eclipse-board.jpg', 'uploads/2025/ember-veil-banner.png'],
    'no-sizes': [...heroes, 'uploads/2024/IMG_4317.JPG'],
    'heavy-film': ['media/old/aurora-from-the-camera.mp4'],
    'heavy-pdf': ['documents/old/exhibition-print.pdf'],
    'no-licence': pathsOf(shown.filter(({ licence }) => !licence)),
    'no-credit': ['documents/annual-report.pdf'],
    uncredited: ['images/press/comet-agency.jpg'],
    'licence-over': ['images/press/comet-agency.jpg'],
    'licence-ending': ['images/press/eclipse-agency.jpg'],
    unreadable: ['uploads/2025/card-reader-error.jpg'],
    'other-type': ['uploads/2025/heron-poster.png'],
    private: ['uploads/2024/IMG_4352.JPG'],
  };
}

const isPicture = (path: string) => /\.(?:jpe?g|png|webp|svg|ico)$/i.test(path);
