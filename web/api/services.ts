import { z } from 'zod';
import { BankAlike, BankFound, BankSetting, type BankQuery, type BankTake } from '../../api/image-bank.ts';
import { Fetched } from '../../api/intake.ts';
import { SuggestedTagsView, TaggingSetting, TaggingState } from '../../api/suggested-tags.ts';
import { ask, search } from './client.ts';

/** Images found and bought in the image bank. */
export const bankApi = {
  setting: () => ask(BankSetting, 'GET', '/image-bank'),
  alike: (id: string) => ask(BankAlike, 'GET', `/image-bank/images/${encodeURIComponent(id)}/alike`),
  images: (query: BankQuery) => ask(BankFound, 'GET', `/image-bank/images${search(query)}`),
  take: (take: z.infer<typeof BankTake>) => ask(Fetched, 'POST', '/image-bank/take', take),
};

/** Where images are that tags are suggested for: items, or files at the door. */
export type TaggedPlace = 'items' | 'arrivals';
const placed = (place: TaggedPlace) => (place === 'items' ? '/suggested-tags' : '/arrivals/suggested-tags');

/** Tags that the tagging service suggests. */
export const taggingApi = {
  state: () => ask(TaggingState, 'GET', '/tagging'),
  setting: () => ask(TaggingSetting, 'GET', '/tagging/setting'),
  suggested: (place: TaggedPlace, ids: readonly number[]) =>
    ask(SuggestedTagsView, 'POST', placed(place), { ids }),
  askAbout: (place: TaggedPlace, ids: readonly number[]) =>
    ask(z.unknown(), 'POST', `${placed(place)}/ask`, { ids }),
  dropWaiting: () => ask(z.unknown(), 'DELETE', '/suggested-tags/waiting'),
};
