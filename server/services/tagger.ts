import {
  Learnt,
  Seen,
  SeenAgain,
  TaggerFacts,
  type ExamplesTold,
  type Label,
} from '../../core/tagging/protocol.ts';
import { Fault } from '../fault.ts';
import { Service } from './service.ts';

/** A service that says what is on images, by the protocol of core/tagging. */
export class Tagger extends Service {
  protected readonly what = 'The tagging service';

  /** How it calls itself. @throws Fault 'busy' when it does not answer */
  async facts(signal: AbortSignal): Promise<TaggerFacts> {
    const facts = await this.json('', TaggerFacts, signal);
    this.name = facts.name;
    return facts;
  }

  /**
   * Sends an image, and gets what is on it. The same key again is the same image.
   * @throws Fault 'bad-request' when it does not take this image; the next one may go
   */
  async send(key: string, jpeg: Uint8Array, signal: AbortSignal): Promise<Label[]> {
    return (await this.json(`images/${key}`, Seen, signal, { put: jpeg, type: 'image/jpeg' })).labels;
  }

  /** What is on images that were sent before. */
  labels(keys: readonly string[], signal: AbortSignal): Promise<SeenAgain> {
    return this.json('labels', SeenAgain, signal, { json: { keys } });
  }

  /** Says what people have tagged. @returns those of which it has no image any more */
  async learn(examples: ExamplesTold['examples'], signal: AbortSignal): Promise<string[]> {
    return (await this.json('examples', Learnt, signal, { json: { examples } })).unknown;
  }

  protected meaning(status: number): Fault | undefined {
    if ([400, 413, 415, 422].includes(status))
      return new Fault(
        'bad-request',
        `${this.called} can’t read this image.`,
        'Tag it by hand; the others go on.',
      );
    return undefined;
  }
}
