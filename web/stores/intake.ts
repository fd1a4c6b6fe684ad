import { useLocalStorage } from '@vueuse/core';
import { fromEvent } from 'file-selector';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import type { BankImageView } from '../../api/image-bank.ts';
import type { ArrivalChange, ArrivalView } from '../../api/intake.ts';
import { api, sentenceOf } from '../api/client.ts';
import { bankApi } from '../api/services.ts';
import { usePlan } from './plan.ts';
import { Sender, type Sending } from './sending.ts';
import { useSite } from './site.ts';

/** One line of the intake list: a file that is being sent, one that has arrived, or both. */
export interface Line {
  key: string;
  givenName: string;
  bytes: number;
  /** Of the whole, 0 to 1. */
  sent: number;
  state: 'waiting' | 'sending' | 'resting' | 'stopped' | 'held' | 'checking' | 'ready' | 'refused';
  fault: string;
  arrival?: ArrivalView;
  sending?: Sending;
}

export type Show = 'all' | 'asks' | 'doubts' | 'left-out' | 'refused';

/** Files on their way in. They go on being sent and checked while the person works elsewhere. */
export const useIntake = defineStore('intake', () => {
  const arrivals = shallowRef<ArrivalView[]>([]);
  /** Of the list as the server has it. */
  let revision = 0;
  const loaded = ref(false);
  const folder = ref('');
  const busy = ref(false);
  const fault = ref('');
  /** Ids of the lines that the person has chosen; none: all are meant. */
  const chosen = ref(new Set<number>());
  const atOnce = useLocalStorage('iconomos.bring-in-at-once', false);

  const sender = new Sender(() => void load());
  let loading: Promise<void> | undefined;
  let again = false;

  /** What the server has of this person; also what arrived before a reload or a restart. */
  function load(): Promise<void> {
    if (loading) {
      again = true;
      return loading;
    }
    loading = api
      .arrivals(revision)
      .then((list) => {
        const known = new Map([...arrivals.value, ...list.changed].map((one) => [one.id, one]));
        arrivals.value = list.ids.flatMap((id) => known.get(id) ?? []);
        // Another person's list, or one that was never whole here: all of it is asked for.
        const whole = list.ids.every((id) => known.has(id));
        revision = whole ? list.revision : 0;
        again ||= !whole;
        loaded.value = true;
        const ids = new Set(list.ids);
        chosen.value = new Set([...chosen.value].filter((id) => ids.has(id)));
      })
      .catch((error: unknown) => {
        fault.value = sentenceOf(error);
      })
      .finally(() => {
        loading = undefined;
        if (!again) return void bringInAtOnce();
        again = false;
        void load();
      });
    return loading;
  }

  async function start() {
    watch(
      () => useSite().arrivals,
      () => void load(),
    );
    await sender.resume();
    await load();
  }

  const lines = computed<Line[]>(() => {
    const mine = new Map(sender.sendings.filter((one) => one.upload).map((one) => [one.upload, one]));
    const out: Line[] = arrivals.value.map((arrival) => {
      const sending = arrival.upload ? mine.get(arrival.upload) : undefined;
      const line: Line = {
        key: `arrival-${arrival.id}`,
        givenName: arrival.givenName,
        bytes: arrival.bytes,
        sent: 1,
        state: arrival.state === 'received' ? 'checking' : (arrival.state as 'ready' | 'refused'),
        fault: arrival.refused,
        arrival,
      };
      if (arrival.state !== 'sending') return line;
      if (!sending)
        return { ...line, sent: 0, state: sender.held.has(arrival.upload ?? '') ? 'held' : 'stopped' };
      return { ...line, ...progressOf(sending), sending };
    });
    const there = new Set(arrivals.value.map((one) => one.upload));
    for (const sending of sender.sendings)
      if (!sending.upload || !there.has(sending.upload))
        out.push({
          key: sending.key,
          givenName: sending.file.name,
          bytes: sending.file.size,
          ...progressOf(sending),
          sending,
        });
    return out;
  });

  /** Takes files, with the folders they lay in; one that was being sent before goes on where it stopped. */
  async function add(files: Iterable<{ file: File; below: string }>) {
    fault.value = '';
    for (const { file, below } of files) {
      const stopped = lines.value.find(
        (line) =>
          ['stopped', 'held'].includes(line.state) &&
          line.givenName === file.name &&
          line.bytes === file.size,
      );
      const url = stopped ? `/api/uploads/${stopped.arrival!.upload}` : '';
      if (stopped) await sender.forgetHeld(stopped.arrival!.upload!);
      await sender.add(file, below, folder.value, url);
    }
  }

  /** Takes one that begins here: it gets its title as soon as it has been checked. */
  async function addTitled(file: File, title: string) {
    const before = new Set(arrivals.value.map((one) => one.id));
    const stop = watch(
      arrivals,
      (all) => {
        const there = all.find(
          (one) => !before.has(one.id) && one.givenName === file.name && one.state !== 'sending',
        );
        if (!there || there.state === 'received') return;
        stop();
        if (there.state === 'ready') void change([there.id], { words: { title } });
      },
      // Before anything is brought in by itself.
      { flush: 'sync' },
    );
    await add([{ file, below: '' }]);
  }

  /** Files that were chosen; those of a folder know where they lie in it. */
  const addChosen = (files: readonly (File & { path?: string })[]) =>
    add(
      files.map((file) => ({
        file,
        below: (file.path ?? file.webkitRelativePath)
          .replace(/^\.?\//, '')
          .split('/')
          .slice(0, -1)
          .join('/'),
      })),
    );

  /** Everything that a drop carries, folders with all below them: read at once, and taken if it may be. */
  async function addFrom(event: Event, allowed: Promise<boolean>) {
    try {
      const files = (await fromEvent(event)) as (File & { path?: string })[];
      if (await allowed) await addChosen(files);
    } catch (error) {
      fault.value = `What was dropped could not be read: ${(error as Error).message}. Choose the files instead.`;
    }
  }

  /** Which lines are shown: all, or those that need the person. */
  const show = ref<Show>('all');
  const groups = computed<Record<Show, Line[]>>(() => {
    const of = (test: (line: Line) => boolean) => lines.value.filter(test);
    return {
      all: lines.value,
      asks: of((line) => line.state === 'ready' && line.arrival!.outcome === 'ask'),
      doubts: of((line) => line.arrival?.findings.some((one) => one.weight === 'warns') ?? false),
      'left-out': of((line) => line.state === 'ready' && line.arrival!.outcome === 'leave-out'),
      refused: of((line) => line.state === 'refused'),
    };
  });
  const shown = computed(() => groups.value[show.value]);
  // What is shown has gone: back to all.
  watch(shown, (list) => {
    if (list.length === 0) show.value = 'all';
  });

  const ready = computed(() => lines.value.filter((line) => line.state === 'ready'));
  /** The lines that a setting or an act is for. */
  const meant = computed(() =>
    chosen.value.size > 0 ? ready.value.filter((line) => chosen.value.has(line.arrival!.id)) : ready.value,
  );
  const going = computed(() =>
    meant.value.filter((line) => ['bring-in', 'replace'].includes(line.arrival!.outcome)),
  );
  const ending = computed(() => meant.value.filter((line) => line.arrival!.outcome === 'leave-out'));
  const underway = computed(
    () =>
      lines.value.filter((line) => ['waiting', 'sending', 'resting', 'checking'].includes(line.state)).length,
  );
  /** Bytes gone of all that are being sent now, 0 to 1; undefined when nothing is. */
  const progress = computed(() => {
    const total = sender.sendings.reduce((sum, one) => sum + one.file.size, 0);
    if (sender.sendings.length === 0) return undefined;
    return total === 0 ? 1 : sender.sendings.reduce((sum, one) => sum + one.sent, 0) / total;
  });

  /** Sets something for arrivals; what the server made of it takes their place on the list. */
  function change(ids: number[], what: ArrivalChange): Promise<boolean> {
    const done = changing.then(() => changeNow(ids, what));
    changing = done;
    return done;
  }
  /** Changes go one after the other, and bringing in waits for them. */
  let changing: Promise<unknown> = Promise.resolve();

  async function changeNow(ids: number[], what: ArrivalChange): Promise<boolean> {
    fault.value = '';
    if (ids.length === 0) return true;
    try {
      const changed = new Map((await api.changeArrivals(ids, what)).map((one) => [one.id, one]));
      arrivals.value = arrivals.value.map((one) => changed.get(one.id) ?? one);
      return true;
    } catch (error) {
      fault.value = sentenceOf(error);
      return false;
    }
  }

  async function drop(line: Line) {
    try {
      if (line.sending) await sender.stop(line.sending.key);
      else if (line.arrival?.upload) await sender.forgetHeld(line.arrival.upload);
      if (line.arrival) await api.dropArrival(line.arrival.id);
    } catch (error) {
      fault.value = sentenceOf(error);
    }
    await load();
    void useSite().load();
  }

  /** After a reload: the person lets the browser read a large file again, and its sending goes on. */
  async function goOn(line: Line) {
    await sender.goOn(line.arrival!.upload!);
    await load();
  }

  async function unpack(line: Line) {
    try {
      await api.unpack(line.arrival!.id);
    } catch (error) {
      fault.value = sentenceOf(error);
    }
    await load();
  }

  /** Fetches one address after the other. Answers those that could not be fetched; a sentence tells of each. */
  async function fetchFrom(addresses: readonly string[]): Promise<string[]> {
    fault.value = '';
    const left: string[] = [];
    const faults: string[] = [];
    for (const address of addresses) {
      try {
        await api.fetchArrival(address, folder.value);
        await load();
      } catch (error) {
        left.push(address);
        faults.push(`${address}: ${sentenceOf(error)}`);
      }
    }
    fault.value = faults.join('\n');
    return left;
  }

  /**
   * Takes an image of the bank into the list.
   * @throws what the server refuses
   */
  async function takeFromBank(image: Pick<BankImageView, 'id' | 'price'>): Promise<void> {
    await bankApi.take({ id: image.id, price: image.price, folder: folder.value });
    await load();
  }

  /** Brings in what is meant, as drafts where the person may not publish: one change, one line in the Ledger. */
  async function bringIn(as: 'items' | 'drafts', sure?: Line[]) {
    busy.value = true;
    fault.value = '';
    await changing;
    const which = sure ?? [...going.value, ...ending.value];
    try {
      if (fault.value || which.length === 0) return;
      const done = await api.bringIn(
        which.map((line) => line.arrival!.id),
        as,
      );
      const { entryId, totals } = done;
      if (entryId !== null && totals) usePlan().done = { entryId, title: done.title, totals };
      chosen.value = new Set();
      await useSite().changed();
    } catch (error) {
      fault.value = sentenceOf(error);
    } finally {
      busy.value = false;
    }
    await load();
  }

  /** For who does not want to look first: what raises no doubt goes in as one batch once all has come. */
  async function bringInAtOnce() {
    if (!atOnce.value || busy.value || underway.value > 0) return;
    const sure = ready.value.filter(
      (line) =>
        line.arrival!.outcome === 'bring-in' && line.arrival!.findings.every((one) => one.weight === 'tells'),
    );
    if (sure.length > 0) await bringIn(useSite().may('publish') ? 'items' : 'drafts', sure);
  }

  return {
    lines,
    show,
    groups,
    shown,
    loaded,
    folder,
    busy,
    fault,
    chosen,
    atOnce,
    ready,
    meant,
    going,
    ending,
    underway,
    progress,
    sendings: computed(() => sender.sendings.length),
    start,
    load,
    add,
    addChosen,
    addFrom,
    addTitled,
    change,
    drop,
    goOn,
    unpack,
    fetchFrom,
    takeFromBank,
    bringIn,
  };
});

function progressOf(sending: Sending): Pick<Line, 'sent' | 'state' | 'fault'> {
  return {
    sent: sending.file.size === 0 ? 1 : sending.sent / sending.file.size,
    state: sending.state === 'failed' ? 'refused' : sending.state,
    fault: sending.fault,
  };
}
