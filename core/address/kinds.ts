import { extensionOf, type SitePath } from './path.ts';

export const KINDS = ['image', 'video', 'audio', 'document', 'other'] as const;
export type Kind = (typeof KINDS)[number];

/** The extensions that make a file an item, with the media type it is served as (IANA names). */
const MEDIA: Record<string, readonly [Kind, string]> = {
  '.jpg': ['image', 'image/jpeg'],
  '.jpeg': ['image', 'image/jpeg'],
  '.jpe': ['image', 'image/jpeg'],
  '.jfif': ['image', 'image/jpeg'],
  '.png': ['image', 'image/png'],
  '.apng': ['image', 'image/apng'],
  '.gif': ['image', 'image/gif'],
  '.webp': ['image', 'image/webp'],
  '.avif': ['image', 'image/avif'],
  '.heic': ['image', 'image/heic'],
  '.heif': ['image', 'image/heif'],
  '.jxl': ['image', 'image/jxl'],
  '.jp2': ['image', 'image/jp2'],
  '.svg': ['image', 'image/svg+xml'],
  '.svgz': ['image', 'image/svg+xml'],
  '.bmp': ['image', 'image/bmp'],
  '.ico': ['image', 'image/vnd.microsoft.icon'],
  '.cur': ['image', 'image/vnd.microsoft.icon'],
  '.tif': ['image', 'image/tiff'],
  '.tiff': ['image', 'image/tiff'],
  '.psd': ['image', 'image/vnd.adobe.photoshop'],
  '.xpm': ['image', 'image/x-xpixmap'],
  '.xbm': ['image', 'image/x-xbitmap'],
  '.ppm': ['image', 'image/x-portable-pixmap'],
  '.pgm': ['image', 'image/x-portable-graymap'],
  '.pbm': ['image', 'image/x-portable-bitmap'],
  '.dng': ['image', 'image/x-adobe-dng'],
  '.cr2': ['image', 'image/x-canon-cr2'],
  '.nef': ['image', 'image/x-nikon-nef'],
  '.arw': ['image', 'image/x-sony-arw'],
  '.mp4': ['video', 'video/mp4'],
  '.m4v': ['video', 'video/mp4'],
  '.webm': ['video', 'video/webm'],
  '.ogv': ['video', 'video/ogg'],
  '.mov': ['video', 'video/quicktime'],
  '.avi': ['video', 'video/x-msvideo'],
  '.mkv': ['video', 'video/x-matroska'],
  '.mpg': ['video', 'video/mpeg'],
  '.mpeg': ['video', 'video/mpeg'],
  '.wmv': ['video', 'video/x-ms-wmv'],
  '.flv': ['video', 'video/x-flv'],
  '.3gp': ['video', 'video/3gpp'],
  '.mp3': ['audio', 'audio/mpeg'],
  '.ogg': ['audio', 'audio/ogg'],
  '.oga': ['audio', 'audio/ogg'],
  '.opus': ['audio', 'audio/ogg'],
  '.wav': ['audio', 'audio/wav'],
  '.flac': ['audio', 'audio/flac'],
  '.m4a': ['audio', 'audio/mp4'],
  '.aac': ['audio', 'audio/aac'],
  '.wma': ['audio', 'audio/x-ms-wma'],
  '.aif': ['audio', 'audio/aiff'],
  '.aiff': ['audio', 'audio/aiff'],
  '.mid': ['audio', 'audio/midi'],
  '.midi': ['audio', 'audio/midi'],
  '.pdf': ['document', 'application/pdf'],
  '.ps': ['document', 'application/postscript'],
  '.eps': ['document', 'application/postscript'],
  '.epub': ['document', 'application/epub+zip'],
  '.doc': ['document', 'application/msword'],
  '.docx': ['document', 'application/vnd.openxmlformats-officedocument.wordprocessingml.document'],
  '.xls': ['document', 'application/vnd.ms-excel'],
  '.xlsx': ['document', 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'],
  '.ppt': ['document', 'application/vnd.ms-powerpoint'],
  '.pptx': ['document', 'application/vnd.openxmlformats-officedocument.presentationml.presentation'],
  '.docm': ['document', 'application/vnd.ms-word.document.macroenabled.12'],
  '.xlsm': ['document', 'application/vnd.ms-excel.sheet.macroenabled.12'],
  '.odt': ['document', 'application/vnd.oasis.opendocument.text'],
  '.ods': ['document', 'application/vnd.oasis.opendocument.spreadsheet'],
  '.odp': ['document', 'application/vnd.oasis.opendocument.presentation'],
  '.odg': ['document', 'application/vnd.oasis.opendocument.graphics'],
  '.rtf': ['document', 'application/rtf'],
  '.csv': ['document', 'text/csv'],
  '.tsv': ['document', 'text/tab-separated-values'],
  '.ics': ['document', 'text/calendar'],
  '.vcf': ['document', 'text/vcard'],
  '.vtt': ['other', 'text/vtt'],
  '.srt': ['other', 'application/x-subrip'],
  '.woff': ['other', 'font/woff'],
  '.woff2': ['other', 'font/woff2'],
  '.ttf': ['other', 'font/ttf'],
  '.otf': ['other', 'font/otf'],
  '.ttc': ['other', 'font/collection'],
  '.eot': ['other', 'application/vnd.ms-fontobject'],
  '.zip': ['other', 'application/zip'],
  '.gz': ['other', 'application/gzip'],
  '.tgz': ['other', 'application/gzip'],
  '.bz2': ['other', 'application/x-bzip2'],
  '.xz': ['other', 'application/x-xz'],
  '.tar': ['other', 'application/x-tar'],
  '.7z': ['other', 'application/x-7z-compressed'],
  '.rar': ['other', 'application/vnd.rar'],
  '.stl': ['other', 'model/stl'],
  '.glb': ['other', 'model/gltf-binary'],
  '.gltf': ['other', 'model/gltf+json'],
  '.obj': ['other', 'model/obj'],
  '.swf': ['other', 'application/vnd.adobe.flash.movie'],
  '.usdz': ['other', 'model/vnd.usdz+zip'],
  '.3mf': ['other', 'model/3mf'],
  '.ply': ['other', 'application/octet-stream'],
  '.fits': ['other', 'application/fits'],
  '.geojson': ['other', 'application/geo+json'],
  '.gpx': ['other', 'application/gpx+xml'],
  '.kml': ['other', 'application/vnd.google-earth.kml+xml'],
  '.kmz': ['other', 'application/vnd.google-earth.kmz'],
};

/** The extensions of content files that can refer to items, with the media type they are served as. */
const PAGES: Record<string, string> = {
  '.html': 'text/html',
  '.htm': 'text/html',
  '.xhtml': 'application/xhtml+xml',
  '.md': 'text/plain',
  '.markdown': 'text/plain',
  '.css': 'text/css',
  '.js': 'text/javascript',
  '.mjs': 'text/javascript',
  '.json': 'application/json',
  '.webmanifest': 'application/manifest+json',
  '.xml': 'application/xml',
  '.rss': 'application/rss+xml',
  '.atom': 'application/atom+xml',
  '.svg': 'image/svg+xml',
  '.txt': 'text/plain',
  '.yml': 'text/plain',
  '.yaml': 'text/plain',
};

/** What browsers render or run, servers run, and systems execute: none of it is ever an item that a person brings in. */
const RUNS = new Set(
  (
    'html htm xhtml shtml stm mht mhtml xml xsl xslt rss atom svgz webmanifest css js mjs cjs jsx ts tsx vue wasm map ' +
    'md markdown php php3 php4 php5 php7 php8 phps phtml pht phar inc asp aspx ashx asmx ascx cer jsp jspx cfm cfml cgi fcgi ' +
    'pl pm py pyc rb erb rhtml lua tcl sh bash zsh csh fish ps1 psm1 bat cmd vbs vbe jse ws wsf wsh hta htc htaccess ' +
    'htpasswd config conf ini env exe dll com scr msi msp msc cpl sys drv so dylib jar class war ear apk ipa app deb ' +
    'rpm dmg pkg iso img vhd vdi lnk url desktop reg inf swf xap gadget'
  )
    .split(' ')
    .map((extension) => `.${extension}`),
);

/**
 * Kinds that are not known here, and that neither browsers nor servers nor systems run: designs, scenes, plans, measurements, maps, lists,
 * captions. What is not among them may be run somewhere, so it does not keep its extension.
 */
const HARMLESS = new Set(
  (
    'txt json jsonl ndjson log bin dat sketch fig xd ai indd idml afphoto afdesign afpub xcf kra ora psb hdr exr tga dds pcx webarchive ' +
    'blend fbx dae 3ds step stp iges igs dwg dxf skp usd usda usdc abc c4d max mb ma lwo bvh mtl x3d wrl gcode ' +
    'xyz pts ptx parquet npy npz h5 hdf5 nc mat sav rds fit fts shp shx dbf prj cpg qgz las laz e57 mbtiles pbf topojson osm ' +
    'numbers pages keynote mpp vsd vsdx pub one wpd wps ' +
    'bib ris tex opml ttml dfxp sbv ass ssa sub lrc cue m3u m3u8 pls xspf sfv md5 sha256 asc sig torrent ' +
    'raf orf rw2 pef srw x3f cr3 crw 3fr iiq mxf mts m2ts vob braw r3d prproj aep drp als flp logicx band mscz musicxml sf2'
  )
    .split(' ')
    .map((extension) => `.${extension}`),
);

/** Whether a file of this name may lie on a server as it is: a kind of media, or one that nothing runs. */
export function keepsExtension(path: SitePath): boolean {
  return (isItemPath(path) || HARMLESS.has(extensionOf(path))) && !runsSomewhere(path);
}

/** True for pages, scripts and programs, by extension. */
export function runsSomewhere(path: SitePath): boolean {
  return RUNS.has(extensionOf(path));
}

/**
 * True for files that become items by themselves: the extension is that of a known media type. Others become
 * items only when a person brings them in.
 */
export function isItemPath(path: SitePath): boolean {
  return Object.hasOwn(MEDIA, extensionOf(path));
}

/** True for content files that can refer to items. Drawings (.svg) are both a page and an item. */
export function isPagePath(path: SitePath): boolean {
  return Object.hasOwn(PAGES, extensionOf(path));
}

const roles = new Map<string, { item: boolean; page: boolean }>();
/** Whether a file can be an item, a page or both; by its ending, each looked at once: it is asked of every file at every scan. */
export function rolesOf(path: SitePath): { item: boolean; page: boolean } {
  const dot = path.lastIndexOf('.');
  const ending = path.slice(dot);
  const known = roles.get(ending);
  // A name that is nothing but an ending has no extension.
  if (known && dot > 0 && path[dot - 1] !== '/') return known;
  const role = { item: isItemPath(path), page: isPagePath(path) };
  if (dot > 0 && path[dot - 1] !== '/' && /^\.\w{1,8}$/.test(ending)) roles.set(ending, role);
  return role;
}

export function kindOf(path: SitePath): Kind {
  return MEDIA[extensionOf(path)]?.[0] ?? 'other';
}

/** The media type by extension, from our own table; 'application/octet-stream' for anything unknown. */
export function mimeOf(path: SitePath): string {
  const extension = extensionOf(path);
  return MEDIA[extension]?.[1] ?? PAGES[extension] ?? 'application/octet-stream';
}

/** Every extension that makes a file an item, with its dot, lower case. */
export const ITEM_EXTENSIONS: ReadonlySet<string> = new Set(Object.keys(MEDIA));

/**
 * Files that browsers and servers ask for by convention, without any page naming them
 * (favicon, touch icons, robots.txt, manifests, RFC 8615 well-known addresses).
 */
export function isConventional(path: SitePath): boolean {
  return (
    /^(.*\/)?(favicon\.ico|robots\.txt|browserconfig\.xml|manifest\.json|[^/]*\.webmanifest)$/i.test(path) ||
    /^(.*\/)?apple-touch-icon[^/]*\.png$/i.test(path) ||
    /^\.well-known\//.test(path)
  );
}
