import { catalogue } from './catalogue.ts';
import { COPIES } from './leftovers.ts';
import { writePages } from './pages.ts';

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
    /** The same picture in other bytes, with what it was made from. */
    alike: [
      [
        'images/sky/deep/galaxy-lantern.jpg',
        'uploads/2025/lantern-small.jpg',
        'uploads/2025/lantern-reexport.jpg',
        'uploads/2025/lantern-detail.jpg',
      ],
      ['images/dome/dome-aurora.jpg', 'uploads/2025/dome-aurora-bright.jpg'],
    ],
    cameraNames: paths.filter((path) => /IMG_|DSC_|dsc_|Screenshot/.test(path)),
    licenceEnded: ['images/press/comet-agency.jpg'],
    withoutRights: ['images/press/sun-agency.jpg'],
  };
}
