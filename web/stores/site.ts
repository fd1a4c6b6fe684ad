import { until } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref } from 'vue';
import type { ItemView } from '../../api/items.ts';
import type { JobView, SiteView } from '../../api/site.ts';
import { reaches as reachesFolders } from '../../core/people/reach.ts';
import type { Right } from '../../core/people/rights.ts';
import { addressOf } from '../../core/address/redirects.ts';
import { api, follow } from '../api/client.ts';

/** Until files switch to their new places and records change, nothing has happened yet. */
export function canStop(job: JobView): boolean {
  if (job.kind === 'plan') return true;
  return job.kind === 'apply' && job.what !== 'files put in place' && job.what !== 'records changed';
}

/** The opened site: counts for the rail, the person, running work; `revision` rises whenever the library changed. */
export const useSite = defineStore('site', () => {
  const site = ref<SiteView>();
  const jobs = ref(new Map<string, JobView>());
  const connected = ref(true);
  const revision = ref(0);
  /** Rises whenever the person's list of files at the door has changed, or is another's. */
  const arrivals = ref(0);
  /** Rises whenever a proposal was made or answered. */
  const submissions = ref(0);

  async function load() {
    site.value = await api.site();
  }

  /** Every list that shows items, and the counts. */
  function again() {
    revision.value++;
    void load();
  }

  async function start() {
    follow({
      job: (job) => {
        jobs.value.set(job.id, job);
        if (job.state === 'done') void load();
      },
      changed: again,
      missed: again,
      arrivals: () => void arrivals.value++,
      people: () => void load(),
      submissions: () => {
        submissions.value++;
        void load();
      },
      following: () => {
        arrivals.value++;
        if (!connected.value) again();
        connected.value = true;
      },
      lost: () => {
        connected.value = false;
      },
    });
    await load();
  }

  /** After an act of our own: the counts, and every list that shows items. */
  async function changed() {
    revision.value++;
    await load();
  }

  /** Whether the person who is signed in may do that. */
  const may = (right: Right): boolean => site.value?.rights.includes(right) ?? false;
  /** The same, also when somebody else has to approve it. */
  const can = (right: Right): boolean => may(right) || (site.value?.asks.includes(right) ?? false);
  /** Whether somebody's rights reach there; those of most reach everywhere. */
  const reaches = (path: string): boolean => reachesFolders(site.value?.person.folders ?? [], path);
  const reachesItem = ({ state, path }: Pick<ItemView, 'state' | 'path'>): boolean =>
    state === 'draft' || reaches(path);
  /** The same as `may`, of a window that may still be opening: what is dropped or pasted then is not lost. */
  async function whenMay(right: Right): Promise<boolean> {
    await until(site).toBeTruthy();
    return may(right);
  }

  /** Where visitors find a file of the site. */
  const servedAddress = (path: string) =>
    site.value ? site.value.servedAt + addressOf(path, site.value.roots) : '';

  /** Where the browser gets an item's file: from the site, or, while it is a draft, from the library. */
  const contentAddress = ({ id, path, state }: Pick<ItemView, 'id' | 'path' | 'state'>) =>
    state === 'draft' ? `/api/items/${id}/content` : servedAddress(path);

  const running = computed(() => [...jobs.value.values()].filter((job) => job.state === 'running'));
  return {
    site,
    running,
    connected,
    revision,
    arrivals,
    submissions,
    load,
    start,
    changed,
    may,
    can,
    reaches,
    reachesItem,
    whenMay,
    servedAddress,
    contentAddress,
  };
});
