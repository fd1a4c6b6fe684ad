import { ImageBank } from './image-bank.ts';
import { readUrl, type FetchSetting } from './outgoing.ts';

/**
 * The image bank that is asked: the one that a setting of the site names, else the one that whoever runs the server has named. A setting
 * leads to public servers, and into the private network only to hosts that the server may fetch from.
 */
export class ChosenBank {
  private made: { address: string; bank: ImageBank } | undefined;

  constructor(
    private readonly setting: () => string | null,
    private readonly named: ImageBank | undefined,
    private readonly fetching: FetchSetting,
  ) {}

  /** Undefined: there is none. */
  get current(): ImageBank | undefined {
    const address = this.setting();
    if (address === null) return this.named;
    if (this.made?.address !== address) {
      const reach = { allowed: true, hosts: this.fetching.hosts };
      this.made = { address, bank: new ImageBank(readUrl(address), undefined, undefined, reach) };
    }
    return this.made.bank;
  }
}
