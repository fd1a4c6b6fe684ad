/**
 * What runs inside a page that is looked at: it outlines placements, offers spots, and speaks with the application's
 * window by messages. It is sent as text, so it stands on its own; names of marks are those of core/reference/look.
 */
function look(
  pictures: Record<string, string>,
  backgrounds: { at: number; served: string; selectors: string }[],
  sheetsChange: boolean,
): void {
  const host = document.createElement('div');
  host.style.cssText = 'all:initial;position:absolute;left:0;top:0;width:0;height:0;z-index:2147483647';
  const shadow = host.attachShadow({ mode: 'closed' });
  shadow.innerHTML =
    '<style>*{box-sizing:border-box}button{all:unset;position:absolute;cursor:pointer;font:600 12px/18px sans-serif}' +
    '.box{border:2px solid #1f7a6d;border-radius:2px;outline:1px solid #fff}.box.chosen{border-width:4px;border-color:#b3541e}' +
    '.box:focus-visible{outline:3px solid #b3541e}.box b{position:absolute;left:-2px;top:-2px;min-width:20px;padding:0 5px;text-align:center;background:#1f7a6d;color:#fff}' +
    '.box.chosen b{background:#b3541e}.box.spot{border-style:dashed;background:#1f7a6d22}' +
    '.bar{height:22px;border-top:2px dashed #1f7a6d;color:#0d4a41;text-align:center;opacity:.55}.bar span{background:#e3f1ee;padding:1px 8px;border-radius:0 0 3px 3px}' +
    '.bar:hover,.bar:focus-visible{opacity:1;border-top-style:solid;outline:none}.bar:hover span,.bar:focus-visible span{background:#1f7a6d;color:#fff}</style>';
  document.documentElement.append(host);

  /** What a spot is chosen for: what stands between blocks, or what is behind one. */
  let placing: false | 'item' | 'background' = false;
  let chosen = '';
  /** What was chosen before it could be seen. */
  let unseen: string | undefined;
  const tell = (message: object) => parent.postMessage({ iconomos: message }, '*');
  const number = (element: Element) => element.getAttribute('data-look-at')!.split(' ')[0]!;
  const startsOf = (element: Element): number[] =>
    [element, element.parentElement?.closest('a[data-look-at]')].flatMap((one) =>
      one ? one.getAttribute('data-look-at')!.split(' ').map(Number) : [],
    );
  /** What style sheets show on an element or before and behind it, by the rule that holds; told anew, as widths change rules. */
  function markBackgrounds(): void {
    for (const old of document.querySelectorAll('[data-look-sheets]')) {
      const own = old.getAttribute('data-look-sheets')!;
      if (own === '') old.removeAttribute('data-look-at');
      else old.setAttribute('data-look-at', own);
      if (old.hasAttribute('data-look-sheet')) old.removeAttribute('data-look-background');
      old.removeAttribute('data-look-sheets');
      old.removeAttribute('data-look-sheet');
    }
    if (backgrounds.length === 0) return;
    const byAddress = new Map<string, typeof backgrounds>();
    for (const one of backgrounds) byAddress.set(one.served, [...(byAddress.get(one.served) ?? []), one]);
    const holds = (element: Element, selectors: string) => {
      try {
        return element.matches(selectors.replace(/::?(before|after|marker)\b/g, ''));
      } catch {
        // Selectors that only make sense within others: the address alone decides.
        return true;
      }
    };
    const here = new URL(location.href).origin;
    for (const element of document.querySelectorAll<HTMLElement>('body, body *')) {
      const found: number[] = [];
      let behind: number | undefined;
      for (const pseudo of ['', '::before', '::after']) {
        const style = getComputedStyle(element, pseudo || undefined);
        if (pseudo !== '' && style.content === 'none') continue;
        const ground = style.backgroundImage;
        const said =
          ground + style.borderImageSource + (style.display === 'list-item' ? style.listStyleImage : '');
        for (const [, address] of said.matchAll(/url\("((?:[^"\\]|\\.)*)"\)/g)) {
          const { pathname, origin } = new URL(address!, document.baseURI);
          if (origin !== here) continue;
          const at = byAddress
            .get(decodeURIComponent(pathname))
            ?.findLast((one) => holds(element, one.selectors))?.at;
          if (at === undefined || found.includes(at)) continue;
          if (pseudo === '' && element.style.backgroundImage.includes('url(')) continue;
          found.push(at);
          if (pseudo === '' && ground.includes(address!)) behind ??= at;
        }
      }
      if (found.length === 0) continue;
      const own = element.getAttribute('data-look-at') ?? '';
      element.setAttribute('data-look-sheets', own);
      element.setAttribute('data-look-at', [own, ...found].join(' ').trim());
      if (behind !== undefined && !element.hasAttribute('data-look-background')) {
        element.setAttribute('data-look-background', String(behind));
        element.setAttribute('data-look-sheet', '');
      }
    }
  }
  /** Elements with placements that can be seen: what stands in the head has no number. */
  const marked = () =>
    [...document.querySelectorAll<HTMLElement>('body [data-look-at], body[data-look-at]')].filter(
      (element) => {
        const rect = element.getBoundingClientRect();
        // A link around an image is shown with it.
        const around = element.matches('a') && element.querySelector('img[data-look-at]') !== null;
        return rect.width > 0 && rect.height > 0 && !around;
      },
    );
  const place = (button: HTMLElement, rect: DOMRect, height?: number) => {
    button.style.left = `${rect.left + scrollX}px`;
    button.style.top = `${rect.top + scrollY}px`;
    button.style.width = `${Math.max(rect.width, 24)}px`;
    button.style.height = `${height ?? Math.max(rect.height, 20)}px`;
  };

  function draw(): void {
    for (const old of shadow.querySelectorAll('button')) old.remove();
    const width = document.documentElement.clientWidth;
    marked().forEach((element, index) => {
      const rect = element.getBoundingClientRect();
      const image = element instanceof HTMLImageElement;
      const background = image ? null : element.getAttribute('data-look-background');
      if (placing && !image && background === null) return;
      if (placing === 'background' && image) return;
      const button = document.createElement('button');
      const at = number(element);
      button.className = `box${at === chosen ? ' chosen' : ''}${placing ? ' spot' : ''}`;
      button.innerHTML = `<b>${placing ? (image ? 'In place of this picture' : 'As this background') : index + 1}</b>`;
      button.setAttribute(
        'aria-label',
        placing
          ? image
            ? `In place of picture ${index + 1}`
            : `As background ${index + 1}`
          : `Placement ${index + 1}`,
      );
      button.onclick = () =>
        tell(
          placing
            ? { spot: image ? { insteadOf: Number(at) } : { background: Number(background) } }
            : { chose: Number(at) },
        );
      place(button, rect);
      shadow.append(button);
    });
    if (placing === 'background')
      [...document.querySelectorAll<HTMLElement>('[data-look-block]')].forEach((block, index) => {
        const rect = block.getBoundingClientRect();
        const has = getComputedStyle(block).backgroundImage.includes('url(');
        if (has || rect.width < 80 || rect.height < 40 || rect.left > width) return;
        const button = document.createElement('button');
        button.className = 'box spot';
        button.innerHTML = '<b>Behind this</b>';
        button.setAttribute(
          'aria-label',
          `Behind block ${index + 1}: ${block.innerText.trim().slice(0, 40)}`,
        );
        button.onclick = () =>
          tell({
            spot: { behind: Number(block.getAttribute('data-look-block')), width: Math.round(rect.width) },
          });
        place(button, rect);
        shadow.append(button);
      });
    if (placing === 'item') {
      const bar = (at: string, top: number, rect: DOMRect) => {
        const button = document.createElement('button');
        button.className = 'bar';
        button.innerHTML = '<span>Place here</span>';
        button.onclick = () => tell({ spot: { at: Number(at) } });
        place(button, new DOMRect(rect.left, top, rect.width, 0), 22);
        shadow.append(button);
      };
      for (const block of document.querySelectorAll<HTMLElement>('[data-look-before]')) {
        const rect = block.getBoundingClientRect();
        if (rect.width < 40 || rect.height === 0 || rect.left > width) continue;
        bar(block.getAttribute('data-look-before')!, rect.top - 11, rect);
        const behind = block.getAttribute('data-look-behind');
        if (behind !== null) bar(behind, rect.bottom, rect);
      }
    }
  }

  function measured(): void {
    tell({
      window: innerWidth,
      complete: document.readyState === 'complete',
      measured: marked().map((element, index) => {
        const rect = element.getBoundingClientRect();
        const style = getComputedStyle(element);
        const image = element instanceof HTMLImageElement ? element : undefined;
        return {
          starts: startsOf(element),
          number: index + 1,
          width: Math.round(rect.width),
          height: Math.round(rect.height),
          naturalWidth: image?.naturalWidth ?? 0,
          naturalHeight: image?.naturalHeight ?? 0,
          cropped:
            image !== undefined &&
            style.objectFit === 'cover' &&
            rect.height > 0 &&
            image.naturalHeight > 0 &&
            Math.abs(rect.width / rect.height / (image.naturalWidth / image.naturalHeight) - 1) > 0.02,
          background: !image && style.backgroundImage !== 'none',
        };
      }),
    });
  }

  function choose(at: string, scroll: boolean): void {
    chosen = at;
    const element = marked().find((one) => startsOf(one).includes(Number(at)));
    unseen = element || !scroll ? undefined : at;
    if (element) chosen = number(element);
    if (element && scroll) element.scrollIntoView({ block: 'center' });
    draw();
  }

  /** Addresses are the page's: what is none of an address leads nowhere, and ends nothing here. */
  const addressOf = (text: string) =>
    URL.canParse(text, document.baseURI) ? new URL(text, document.baseURI) : undefined;
  const pathOf = (text: string) => {
    const path = addressOf(text)?.pathname ?? '';
    try {
      return decodeURIComponent(path);
    } catch {
      return path;
    }
  };
  const loads = 'img[src],link[rel~=stylesheet][href],source[src],video[src],audio[src]';
  const others = [...document.querySelectorAll<HTMLImageElement & HTMLLinkElement>(loads)].filter((one) => {
    const address = addressOf(one.getAttribute('src') ?? one.getAttribute('href') ?? '');
    return address && /^https?:$/.test(address.protocol) && address.host !== location.host;
  });
  if (sheetsChange) {
    const own = new URL(location.href).searchParams;
    for (const link of document.querySelectorAll<HTMLLinkElement>('link[rel~=stylesheet]')) {
      const address = addressOf(link.href);
      if (!address) continue;
      for (const name of ['iconomos-preview', 'plan']) address.searchParams.set(name, own.get(name) ?? '');
      if (address.host !== location.host) continue;
      link.addEventListener('load', () => all());
      link.href = address.href;
    }
  }
  for (const image of document.querySelectorAll('img')) {
    image.loading = 'eager';
    const plannedOf = (address: string) => pictures[pathOf(address)];
    const set = (image.getAttribute('srcset') ?? '').split(',').map((one) => one.trim().split(' ')[0]!);
    if (set.some((one) => plannedOf(one) !== undefined)) image.removeAttribute('srcset');
    const bytes = plannedOf(image.getAttribute('src') ?? '');
    if (bytes !== undefined) image.src = `data:image/*;base64,${bytes}`;
  }
  addEventListener(
    'message',
    (event: MessageEvent<{ iconomos?: { choose?: number; placing?: false | 'item' | 'background' } }>) => {
      const message = event.source === parent ? event.data.iconomos : undefined;
      if (message?.placing !== undefined) {
        placing = message.placing;
        draw();
      }
      if (message?.choose !== undefined) choose(String(message.choose), true);
    },
  );
  // Nothing leads away from the page that is looked at.
  addEventListener('click', (event) => event.preventDefault(), true);
  addEventListener('submit', (event) => event.preventDefault(), true);
  addEventListener('keydown', (event) => {
    const typing = event.ctrlKey || event.metaKey || event.altKey;
    if (!typing && (event.key === 'Escape' || /^[a-z?]$/.test(event.key))) tell({ key: event.key });
  });
  const all = () => {
    markBackgrounds();
    if (unseen === undefined) draw();
    else choose(unseen, true);
    measured();
  };
  addEventListener('resize', all);
  addEventListener('load', all);
  // The window doesn't wait for images that load lazily, and one that comes late need not change the page's size.
  let late: ReturnType<typeof setTimeout> | undefined;
  const soon = () => {
    clearTimeout(late);
    late = setTimeout(all, 50);
  };
  document.addEventListener('load', soon, true);
  new ResizeObserver(all).observe(document.documentElement);
  all();
  tell({ ready: true, others: others.length });
}

export const PREVIEW_SCRIPT = look.toString();
