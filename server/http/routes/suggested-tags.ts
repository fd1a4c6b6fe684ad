import { SuggestedTagsView, TaggingSetting, TaggingState } from '../../../api/suggested-tags.ts';
import { kindOf } from '../../../core/address/kinds.ts';
import type { SitePath } from '../../../core/address/path.ts';
import type { Item } from '../../db/item-rows.ts';
import type { Services } from '../context.ts';
import { defineRoute, Done, Json, type Route } from '../route.ts';
import { LARGE } from '../body.ts';
import { suggestedTagsView, type Suggesting } from '../views/suggested-tags.ts';

/** Tags that a service suggests for images. */
export const suggestedTagsRoutes = ({ site, tagging }: Services): Route[] => {
  /** Images that have a record of their own; what is said of a size is said of its image. */
  const images = async (ids: readonly number[]) =>
    (await site.items.many(ids)).filter(
      (item): item is Item => item.kind === 'image' && item.sizeOf === null && item.state !== 'absent',
    );
  /** Images of a person's list that have been looked through. */
  const atTheDoor = (ids: readonly number[], personId: number): Suggesting[] =>
    ids.flatMap((id) => {
      const row = site.arrivals.get(id);
      const ready = row?.state === 'ready' && row.personId === personId && row.sha256 !== null;
      if (!ready || kindOf(row.name as SitePath) !== 'image') return [];
      return [
        {
          id,
          path: row.name,
          sha256: row.sha256!,
          tags: row.words.tags ?? [],
          said: row.said,
        },
      ];
    });
  return [
    defineRoute({
      method: 'get',
      path: '/tagging',
      right: 'bring-in',
      answer: TaggingState,
      handle: () => ({
        isSet: tagging.isSet,
        name: tagging.name,
        ...(tagging.isSet ? tagging.use() : { sent: 0, limit: null, left: null }),
        running: tagging.isRunning,
        waiting: site.suggestedTags.waiting,
        fault: tagging.fault,
      }),
    }),

    /** What a setting says; null: nothing. */
    defineRoute({
      method: 'get',
      path: '/tagging/setting',
      right: 'settings',
      answer: TaggingSetting,
      handle: () => ({
        address: site.serviceSettings.address('tagging'),
        limit: site.serviceSettings.limit('tagging'),
      }),
    }),

    /** What is suggested for some items. */
    defineRoute({
      method: 'post',
      path: '/suggested-tags',
      right: 'describe',
      body: 'ManyItems',
      most: LARGE,
      answer: SuggestedTagsView,
      handle: async ({ body }) => {
        const said = await site.suggestedTags.saidOf(body.ids);
        const asked = (await images(body.ids)).map(({ id, path, sha256, words }) => ({
          id,
          path,
          sha256,
          tags: words.tags,
          said: said.get(id)!,
        }));
        return Json.large(await suggestedTagsView(site, tagging, asked));
      },
    }),

    /** Has the images of some items looked at, as a job. */
    defineRoute({
      method: 'post',
      path: '/suggested-tags/ask',
      right: 'describe',
      body: 'ManyItems',
      most: LARGE,
      answer: Done,
      handle: async ({ body }) => {
        await tagging.ask([...new Set((await images(body.ids)).map(({ sha256 }) => sha256))]);
        return {};
      },
    }),

    /** What is suggested for files that wait at the door. */
    defineRoute({
      method: 'post',
      path: '/arrivals/suggested-tags',
      right: 'bring-in',
      body: 'ManyItems',
      answer: SuggestedTagsView,
      handle: ({ body, person }) => suggestedTagsView(site, tagging, atTheDoor(body.ids, person.id)),
    }),

    defineRoute({
      method: 'post',
      path: '/arrivals/suggested-tags/ask',
      right: 'bring-in',
      body: 'ManyItems',
      answer: Done,
      handle: async ({ body, person }) => {
        await tagging.ask([...new Set(atTheDoor(body.ids, person.id).map(({ sha256 }) => sha256))]);
        return {};
      },
    }),

    /** What waits is not looked at any more. */
    defineRoute({
      method: 'delete',
      path: '/suggested-tags/waiting',
      right: 'describe',
      answer: Done,
      handle: async () => {
        await tagging.dropWaiting();
        return {};
      },
    }),
  ];
};
