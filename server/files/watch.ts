import { watch } from 'chokidar';
import type { Site } from '../app/site.ts';
import { STAGE_PREFIX } from './site-folder.ts';

/** Notices what others change in the site's folder and scans it, half a second after things have come to rest. */
export function watchSite(
  site: Pick<Site, 'folder' | 'data' | 'scanner'>,
  onError: (error: Error) => void,
): () => Promise<void> {
  let timer: NodeJS.Timeout | undefined;
  const watcher = watch(site.folder.root, {
    ignoreInitial: true,
    followSymlinks: false,
    ignored: (path) =>
      path === site.data.root ||
      path.startsWith(`${site.data.root}/`) ||
      path.includes(STAGE_PREFIX) ||
      /[\\/]\.(git|hg|svn)([\\/]|$)/.test(path),
  });
  watcher.on('all', () => {
    clearTimeout(timer);
    timer = setTimeout(() => site.scanner.scan().catch(onError), 500);
  });
  watcher.on('error', (error) => onError(error as Error));
  return async () => {
    clearTimeout(timer);
    await watcher.close();
  };
}
