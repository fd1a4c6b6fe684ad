import { DEEPEST } from '../../core/text/depth.ts';
import { generate, ident, parse, walk, type CssNode, type List } from 'css-tree';
import { SaxesParser, type SaxesTagNS } from 'saxes';
import { LIMITS } from '../limits.ts';

const SVG = 'http://www.w3.org/2000/svg';
const XLINK = 'http://www.w3.org/1999/xlink';
const XML = 'http://www.w3.org/XML/1998/namespace';
const XMLNS = 'http://www.w3.org/2000/xmlns/';

/** Elements of SVG 1.1 and 2 that draw, describe or animate. Everything else is left out with what it holds. */
const ELEMENTS = new Set(
  `svg g defs symbol use path rect circle ellipse line polyline polygon text tspan textPath image switch a title desc
   metadata style linearGradient radialGradient stop pattern clipPath mask marker filter feBlend feColorMatrix
   feComponentTransfer feComposite feConvolveMatrix feDiffuseLighting feDisplacementMap feDistantLight feDropShadow
   feFlood feFuncA feFuncB feFuncG feFuncR feGaussianBlur feImage feMerge feMergeNode feMorphology feOffset
   fePointLight feSpecularLighting feSpotLight feTile feTurbulence animate animateMotion animateTransform mpath set view`
    .split(/\s+/)
    .filter(Boolean),
);
/** Attributes whose value an animation may not change. */
const NOT_ANIMATED = /^(on|href|xlink:href|style)/i;
const PICTURE_DATA = /^data:image\/(png|jpeg|gif|webp|avif);base64,[A-Za-z0-9+/=\s]*$/i;

/** What was left out, for the sentence to the person; `text` is the drawing without it. */
export interface SafeDrawing {
  text: string;
  removed: string[];
}

/**
 * Makes a drawing safe to be shown: scripts, event handlers, foreign content, loads from elsewhere and entities go.
 * It is written anew from what the parser read, so nothing that a parser might read otherwise stays.
 * @throws Error when it is no well-formed SVG, or its entities grow beyond the limit
 */
export function safeDrawing(source: string): SafeDrawing {
  const removed = new Set<string>();
  const text = expandEntities(source, removed);
  const out: string[] = [];
  let skipping = 0;
  let style: string[] | undefined;
  let opened = false;
  let depth = 0;
  const parser = new SaxesParser({ xmlns: true });
  parser.on('error', (error) => {
    throw error;
  });
  parser.on('processinginstruction', ({ target }) => {
    if (target !== 'xml') removed.add('instructions to programs');
  });
  parser.on('opentag', (tag) => {
    if (++depth > DEEPEST) throw new Error('Its elements are nested too deeply.');
    if (skipping > 0 || !isDrawn(tag) || animatesMore(tag)) {
      if (skipping === 0) removed.add(whatItIs(tag));
      skipping++;
      return;
    }
    if (!opened && tag.local !== 'svg') throw new Error('The first element is not an SVG drawing.');
    opened = true;
    out.push(`<${tag.name}${attributesOf(tag, removed)}>`);
    if (tag.local === 'style') style = [];
  });
  parser.on('closetag', (tag) => {
    depth--;
    if (skipping > 0) {
      skipping--;
      return;
    }
    if (style) out.push(escapeText(safeCss(style.join(''), 'stylesheet', removed)));
    style = undefined;
    out.push(`</${tag.name}>`);
  });
  const write = (words: string) => {
    if (skipping > 0 || !opened) return;
    if (style) style.push(words);
    else out.push(escapeText(words));
  };
  parser.on('text', write);
  parser.on('cdata', write);
  parser.write(text).close();
  if (!opened) throw new Error('There is no drawing in it.');
  return { text: `<?xml version="1.0" encoding="UTF-8"?>\n${out.join('')}\n`, removed: [...removed] };
}

function isDrawn(tag: SaxesTagNS): boolean {
  return tag.uri === SVG && ELEMENTS.has(tag.local);
}

/** An animation that would set a link, a handler or a style. */
function animatesMore(tag: SaxesTagNS): boolean {
  return NOT_ANIMATED.test(String(tag.attributes['attributeName']?.value ?? ''));
}

function whatItIs(tag: SaxesTagNS): string {
  if (isDrawn(tag)) return 'animated links';
  if (tag.local === 'script') return 'scripts';
  if (tag.local === 'foreignObject' || tag.uri === 'http://www.w3.org/1999/xhtml') return 'foreign content';
  return tag.uri === SVG ? 'elements that do not draw' : 'data of drawing programs';
}

function attributesOf(tag: SaxesTagNS, removed: Set<string>): string {
  let kept = '';
  for (const attribute of Object.values(tag.attributes)) {
    const { name, local, uri, value } = attribute;
    if (uri === XMLNS) {
      // Only the names that are still used: those of drawing programs went with their elements.
      if ([SVG, XLINK, XML].includes(value)) kept += ` ${name}="${escapeAttribute(value)}"`;
      continue;
    }
    if (uri !== '' && uri !== XLINK && uri !== XML) {
      removed.add('data of drawing programs');
      continue;
    }
    if (/^on/i.test(local)) {
      removed.add('event handlers');
      continue;
    }
    if (local === 'base' && uri === XML) {
      removed.add('loads from elsewhere');
      continue;
    }
    if (local === 'href') {
      const address = value.trim();
      const link = tag.local === 'a' && /^(https?:|mailto:|#|\/|\.|[\w-]+(\/|$))/i.test(address);
      if (!address.startsWith('#') && !PICTURE_DATA.test(address) && !link) {
        removed.add(/^\s*(javascript|vbscript|data):/i.test(address) ? 'scripts' : 'loads from elsewhere');
        continue;
      }
    }
    const css =
      local === 'style' ? safeCss(value, 'declarationList', removed) : safeReferences(value, removed);
    kept += ` ${name}="${escapeAttribute(css)}"`;
  }
  return kept;
}

/** Presentation attributes hold url(#...) only. */
function safeReferences(value: string, removed: Set<string>): string {
  const outside = () => {
    removed.add('loads from elsewhere');
    return 'none';
  };
  // Written with escapes, an address could be hidden from us and not from a browser.
  const read = value.includes('\\') ? ident.decode(value) : value;
  if (!/url\s*\(/i.test(read)) return value;
  if (read !== value) return outside();
  // One that is not closed ends with the attribute.
  return value.replace(/url\s*\(([^)]*)(?:\)|$)/gi, (whole, address: string) =>
    address.replace(/[\s"']/g, '').startsWith('#') ? whole : outside(),
  );
}

/** CSS without imports and without addresses that lead out of the drawing. */
function safeCss(css: string, context: 'stylesheet' | 'declarationList', removed: Set<string>): string {
  const tree = parse(css, { context });
  walk(tree, (node: CssNode, item, list: List<CssNode>) => {
    const drop = (what: string) => {
      removed.add(what);
      list?.remove(item);
    };
    if (node.type === 'Atrule' && ['import', 'font-face', 'namespace'].includes(node.name.toLowerCase()))
      drop('loads from elsewhere');
    else if (node.type === 'Url' && !node.value.startsWith('#') && !PICTURE_DATA.test(node.value))
      drop('loads from elsewhere');
    else if (node.type === 'Function' && /^(expression|image-set|-webkit-image-set|src)$/i.test(node.name))
      drop('loads from elsewhere');
    else if (node.type === 'Declaration' && /^(behavior|-moz-binding)$/i.test(node.property)) drop('scripts');
    else if (node.type === 'Raw' && /url\s*\(|@import|expression|\\/i.test(node.value))
      drop('styles that could not be read');
  });
  return generate(tree);
}

/** Characters of a drawing's document type. */
const LONGEST_DOCTYPE = 50_000;

/** Puts a drawing's own entities in and takes its document type away. Entities from elsewhere become nothing. */
function expandEntities(source: string, removed: Set<string>): string {
  const at = source.search(/<!DOCTYPE\s/i);
  if (at < 0) return source;
  // Looked for at one place only: from each of many beginnings to the end would take for ever.
  const whole = /<!DOCTYPE\s[^[>]*(?:\[([\s\S]*?)\]\s*)?>/iy;
  whole.lastIndex = at;
  const doctype = whole.exec(source);
  if (!doctype) return source;
  if (doctype[0].length > LONGEST_DOCTYPE) throw new Error('Its document type is too long.');
  const entities = new Map<string, string>();
  for (const found of (doctype[1] ?? '').matchAll(
    /<!ENTITY\s+(%\s+)?([\w:.-]+)\s+(?:(SYSTEM|PUBLIC)[^>]*|"([^"]*)"\s*|'([^']*)'\s*)>/g,
  )) {
    removed.add('entities');
    if (!found[1]) entities.set(found[2]!, found[3] ? '' : (found[4] ?? found[5] ?? ''));
  }
  const most = Math.min(LIMITS.drawingExpanded, source.length * LIMITS.drawingGrowth);
  let text = source.slice(0, doctype.index) + source.slice(doctype.index + doctype[0].length);
  for (let depth = 0; depth < 8; depth++) {
    let length = 0;
    let changed = false;
    text = text.replace(/&([\w:.-]+);/g, (whole, name: string) => {
      const value = entities.get(name);
      if (value === undefined) return whole;
      changed = true;
      length += value.length;
      if (length > most) throw new Error('Its entities grow without bound.');
      return value;
    });
    if (text.length > most) throw new Error('Its entities grow without bound.');
    if (!changed) return text;
  }
  throw new Error('Its entities hold one another.');
}

function escapeText(text: string): string {
  return text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;');
}

function escapeAttribute(text: string): string {
  return escapeText(text).replace(/"/g, '&quot;').replace(/\n/g, '&#10;').replace(/\t/g, '&#9;');
}
