import { Chance } from './chance.ts';

const INK = '#20303a';
const GOLD = '#b8862f';

/** The site's line drawings, as SVG. */
export function drawing(name: string): string {
  const body = DRAWINGS[name];
  if (!body) throw new Error(`no drawing ${name}`);
  const [width, height, content] = body();
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">\n${content}\n</svg>\n`;
}

const dome = (x: number, y: number, r: number, ink: string) =>
  `<path d="M${x - r} ${y}a${r} ${r} 0 0 1 ${2 * r} 0v${r * 0.7}h${-2 * r}z" fill="none" stroke="${ink}" stroke-width="${r / 12}"/><path d="M${x + r * 0.2} ${y}v${-r * 0.97}h${r * 0.3}v${r * 0.97}" fill="${GOLD}"/>`;

const DRAWINGS: Record<string, () => [number, number, string]> = {
  logo: () => [
    240,
    60,
    `${dome(34, 34, 22, INK)}<text x="70" y="30" font-family="Georgia, serif" font-size="19" fill="${INK}">Corvane Hill</text><text x="70" y="49" font-family="Georgia, serif" font-size="13" fill="${GOLD}">Observatory</text>`,
  ],
  map: () => [
    480,
    320,
    `<rect width="480" height="320" fill="#f3eee2"/><path d="M0 250C90 220 150 280 240 230S400 150 480 170" fill="none" stroke="#8fa6a0" stroke-width="9"/><path d="M60 0C80 110 200 120 230 200S330 300 350 320" fill="none" stroke="${GOLD}" stroke-width="5" stroke-dasharray="12 7"/>${dome(236, 150, 22, INK)}<text x="264" y="146" font-family="Georgia, serif" font-size="15" fill="${INK}">Observatory</text><text x="376" y="196" font-family="Georgia, serif" font-size="13" fill="#4d6b64">Corvane Water</text>`,
  ],
  refractor: () => [
    480,
    320,
    `<rect width="480" height="320" fill="#f3eee2"/><g fill="none" stroke="${INK}" stroke-width="3"><path d="M90 210L370 70l14 28L104 238z"/><path d="M370 70l34-17 14 28-34 17"/><path d="M236 154l8 120M244 274l-62 40M244 274l62 40M244 274v40"/><circle cx="240" cy="152" r="15" fill="${GOLD}"/></g>`,
  ],
  'light-curve': () => {
    const chance = new Chance('light curve');
    const dots = Array.from({ length: 90 }, (_, i) => {
      const t = i / 90;
      const y = 150 - 70 * Math.cos(t * 12) * Math.exp(-((((t * 6) % 1) - 0.5) ** 2)) + chance.between(-9, 9);
      return `<circle cx="${(40 + t * 410).toFixed(1)}" cy="${y.toFixed(1)}" r="3" fill="${i % 7 === 0 ? GOLD : INK}"/>`;
    }).join('');
    return [
      480,
      300,
      `<rect width="480" height="300" fill="#fbf8f1"/><path d="M40 20v240h420" fill="none" stroke="${INK}" stroke-width="2"/>${dots}<text x="330" y="284" font-family="Georgia, serif" font-size="13" fill="${INK}">days since the first of May</text>`,
    ];
  },
  eclipse: () => [
    480,
    300,
    `<rect width="480" height="300" fill="#111827"/>${Array.from({ length: 7 }, (_, i) => `<circle cx="${48 + i * 64}" cy="${200 - 90 * Math.sin((i / 6) * Math.PI)}" r="24" fill="#e9c46a"/><circle cx="${48 + i * 64 + (i - 3) * 14}" cy="${200 - 90 * Math.sin((i / 6) * Math.PI) - 2}" r="24" fill="#111827"/>`).join('')}`,
  ],
  'icon-clock': () => [
    48,
    48,
    `<circle cx="24" cy="24" r="19" fill="none" stroke="${INK}" stroke-width="3"/><path d="M24 12v13l9 5" fill="none" stroke="${GOLD}" stroke-width="3"/>`,
  ],
  'icon-ticket': () => [
    48,
    48,
    `<path d="M5 14h38v7a4 4 0 0 0 0 8v7H5v-7a4 4 0 0 0 0-8z" fill="none" stroke="${INK}" stroke-width="3"/><path d="M30 16v18" stroke="${GOLD}" stroke-width="3" stroke-dasharray="3 3"/>`,
  ],
  'icon-bus': () => [
    48,
    48,
    `<rect x="6" y="10" width="36" height="25" rx="4" fill="none" stroke="${INK}" stroke-width="3"/><path d="M6 24h36" stroke="${INK}" stroke-width="3"/><circle cx="15" cy="37" r="4" fill="${GOLD}"/><circle cx="33" cy="37" r="4" fill="${GOLD}"/>`,
  ],
  'icon-dome': () => [32, 32, `<rect width="32" height="32" rx="5" fill="#f3eee2"/>${dome(16, 18, 11, INK)}`],
};
