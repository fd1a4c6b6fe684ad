import { childAt, childrenOf, readXml, type XmlElement } from '../office/package.ts';
import type { CellStyle } from './sheet.ts';

/** What the numbers that cells give as their style stand for. */
export interface XlsxStyles {
  looks: readonly (CellStyle | undefined)[];
  /** Ids of number formats. */
  formats: readonly number[];
  /** Number formats of the workbook's own, by their ids. */
  patterns: ReadonlyMap<number, string>;
}

/** Order in which colours of a theme are numbered (ECMA-376, 20.1.6.2: light and dark change places). */
const THEME = ['lt1', 'dk1', 'lt2', 'dk2', 'accent1', 'accent2', 'accent3', 'accent4', 'accent5', 'accent6'];
/** The first 64 numbered colours (ECMA-376, 18.8.27), six digits each. */
const INDEXED = [
  '000000ffffffff000000ff000000ffffff00ff00ff00ffff',
  '000000ffffffff000000ff000000ffffff00ff00ff00ffff',
  '800000008000000080808000800080008080c0c0c0808080',
  '9999ff993366ffffccccffff660066ff80800066ccccccff',
  '000080ff00ffffff0000ffff8000808000000080800000ff',
  '00ccffccffffccffccffff9999ccffff99cccc99ffffcc99',
  '3366ff33cccc99cc00ffcc00ff9900ff6600666699969696',
  '003366339966003300333300993300993366333399333333',
].flatMap((line) => line.match(/.{6}/g)!);

export function xlsxStyles(styles: string, theme: string): XlsxStyles {
  const sheet = styles === '' ? undefined : childAt(readXml(styles), 'styleSheet');
  const scheme =
    theme === '' ? undefined : childAt(readXml(theme), 'a:theme', 'a:themeElements', 'a:clrScheme');
  const themed = THEME.map((name) => {
    const [color] = childrenOf(childAt(scheme, `a:${name}`));
    return color?.attributes['lastClr'] ?? color?.attributes['val'] ?? '';
  });
  const colorOf = (of: XmlElement | undefined): string | undefined => {
    if (!of) return undefined;
    const { rgb, theme: number, indexed, tint } = of.attributes;
    const plain =
      rgb !== undefined
        ? rgb.slice(-6)
        : number !== undefined
          ? themed[Number(number)]
          : INDEXED[Number(indexed ?? -1)];
    if (plain === undefined || !/^[\da-f]{6}$/i.test(plain)) return undefined;
    return tinted(plain, Number(tint ?? 0));
  };
  const fonts = childrenOf(childAt(sheet, 'fonts'), 'font').map((font): CellStyle => {
    const has = (name: string) => {
      const one = childAt(font, name);
      return one !== undefined && !['0', 'false', 'none'].includes(one.attributes['val'] ?? '');
    };
    const color = colorOf(childAt(font, 'color'));
    return {
      ...(has('b') ? { bold: true } : {}),
      ...(has('i') ? { italic: true } : {}),
      ...(has('u') ? { underline: true } : {}),
      ...(has('strike') ? { strike: true } : {}),
      // Black is what text is anyway, in whatever light it is read.
      ...(color !== undefined && color !== '#000000' ? { color } : {}),
    };
  });
  const fills = childrenOf(childAt(sheet, 'fills'), 'fill').map((fill) => {
    const pattern = childAt(fill, 'patternFill');
    const solid = pattern && !['none', undefined].includes(pattern.attributes['patternType']);
    return solid ? colorOf(childAt(pattern, 'fgColor')) : undefined;
  });
  const kinds = childrenOf(childAt(sheet, 'cellXfs'), 'xf');
  return {
    looks: kinds.map((xf) => {
      const fill = fills[Number(xf.attributes['fillId'] ?? 0)];
      const alignment = childAt(xf, 'alignment')?.attributes;
      const align = { left: 'left', center: 'center', right: 'right', centerContinuous: 'center' }[
        alignment?.['horizontal'] ?? ''
      ] as CellStyle['align'];
      const look: CellStyle = {
        ...fonts[Number(xf.attributes['fontId'] ?? 0)],
        ...(fill === undefined ? {} : { fill }),
        ...(align === undefined ? {} : { align }),
        ...(['1', 'true'].includes(alignment?.['wrapText'] ?? '') ? { wrap: true } : {}),
      };
      return Object.keys(look).length > 0 ? look : undefined;
    }),
    formats: kinds.map((xf) => Number(xf.attributes['numFmtId'] ?? 0)),
    patterns: new Map(
      childrenOf(childAt(sheet, 'numFmts'), 'numFmt').map(({ attributes }) => [
        Number(attributes['numFmtId']),
        attributes['formatCode'] ?? 'General',
      ]),
    ),
  };
}

/** A colour made lighter (above 0) or darker. @param by from -1 to 1 (ECMA-376, 18.8.19) */
function tinted(color: string, by: number): string {
  const parts = [0, 2, 4].map((at) => parseInt(color.slice(at, at + 2), 16));
  const moved = parts.map((part) => Math.round(by < 0 ? part * (1 + by) : part + (255 - part) * by));
  return `#${moved.map((part) => Math.min(255, Math.max(0, part)).toString(16).padStart(2, '0')).join('')}`;
}
