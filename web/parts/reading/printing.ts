import paper from './paper.css?inline';
import './printing.css';

/**
 * Prints pages, each an image, and nothing else of the window.
 * @param page makes a page, from 1
 * @param progress is told how many are made; false: nobody wants them any more
 */
export async function printPages(
  pages: number,
  page: (number: number) => Promise<Blob>,
  progress: (made: number) => boolean,
): Promise<void> {
  const all = document.createElement('div');
  all.className = 'app-print';
  const addresses: string[] = [];
  const end = () => {
    all.remove();
    for (const address of addresses) URL.revokeObjectURL(address);
  };
  try {
    for (let number = 1; number <= pages; number++) {
      if (!progress(number - 1)) return end();
      const address = URL.createObjectURL(await page(number));
      addresses.push(address);
      const image = document.createElement('img');
      image.alt = `Page ${number}`;
      image.src = address;
      await image.decode();
      all.append(image);
    }
    progress(pages);
    document.body.append(all);
    window.addEventListener('afterprint', end, { once: true });
    window.print();
  } catch (error) {
    end();
    throw error;
  }
}

/** Prints HTML of our own making, and nothing else of the window: from a frame in which nothing runs. */
export function printHtml(html: string, title: string): void {
  const frame = document.createElement('iframe');
  // Frames that aren't drawn at all are printed empty.
  frame.style.cssText = 'position: fixed; width: 0; height: 0; border: 0';
  frame.ariaHidden = 'true';
  frame.setAttribute('sandbox', 'allow-same-origin allow-modals');
  document.body.append(frame);
  const inside = frame.contentDocument!;
  inside.title = title;
  const style = inside.createElement('style');
  style.textContent = paper;
  inside.head.append(style);
  inside.body.innerHTML = html;
  frame.contentWindow!.addEventListener('afterprint', () => frame.remove(), { once: true });
  frame.contentWindow!.print();
}
