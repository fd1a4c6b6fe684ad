import { readUrl, type FetchSetting } from './outgoing.ts';

/**
 * The service that is asked: the one that a setting of the site names, else the one that whoever runs the server has named. A setting
 * leads to public servers, and into the private network only to hosts that the server may fetch from.
 */
export class Chosen<Kind> {
  private made: { address: string; service: Kind } | undefined;

  /** @param open makes one that lies where `reach` allows */
  constructor(
    private readonly setting: () => string | null,
    private readonly named: Kind | undefined,
    private readonly fetching: FetchSetting,
    private readonly open: (base: URL, reach: FetchSetting) => Kind,
  ) {}

  /** Undefined: there is none. */
  get current(): Kind | undefined {
    const address = this.setting();
    if (address === null) return this.named;
    if (this.made?.address !== address) {
      const reach = { allowed: true, hosts: this.fetching.hosts };
      this.made = { address, service: this.open(readUrl(address), reach) };
    }
    return this.made.service;
  }
}
