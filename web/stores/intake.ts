import { defineStore } from 'pinia';
import { computed, ref } from 'vue';
import type { ArrivalView } from '../../api/site.ts';
import { api, sendFile, sentenceOf } from '../api/client.ts';
import { usePlan } from './plan.ts';
import { useSite } from './site.ts';

/** One line of the intake list. */
export interface Line {
  key: number;
  givenName: string;
  bytes: number;
  sent: number;
  state: 'waiting' | 'sending' | 'checking' | 'ready' | 'refused';
  /** What was refused, or went wrong with the name. */
  fault: string;
  arrival?: ArrivalView;
  /** For bytes that are here already: stored a second time only when asked. */
  keepBoth: boolean;
  file?: File;
}

/** Files on their way in. They go on being sent while the person works elsewhere. */
export const useIntake = defineStore('intake', () => {
  const lines = ref<Line[]>([]);
  const folder = ref('');
  const busy = ref(false);
  const fault = ref('');
  let nextKey = 1;
  let sending = 0;
  const stop = new AbortController();

  /** Files that arrived before and still wait, also after a restart. */
  async function load() {
    for (const arrival of await api.arrivals()) {
      if (lines.value.some((line) => line.arrival?.id === arrival.id)) continue;
      lines.value.push({
        key: nextKey++,
        givenName: arrival.givenName,
        bytes: arrival.bytes,
        sent: arrival.bytes,
        state: 'ready',
        fault: '',
        arrival,
        keepBoth: false,
      });
    }
  }

  function add(files: Iterable<File>) {
    for (const file of files)
      lines.value.push({
        key: nextKey++,
        givenName: file.name,
        bytes: file.size,
        sent: 0,
        state: 'waiting',
        fault: '',
        keepBoth: false,
        file,
      });
    void feed();
  }

  /** Two files at a time: more would only share the same line. */
  async function feed() {
    while (sending < 2) {
      const line = lines.value.find((one) => one.state === 'waiting');
      if (!line) return;
      line.state = 'sending';
      sending++;
      void send(line).finally(() => {
        sending--;
        void feed();
      });
    }
  }

  async function send(line: Line) {
    try {
      line.arrival = await sendFile(
        line.file!,
        (bytes) => {
          line.sent = bytes;
          if (bytes >= line.bytes) line.state = 'checking';
        },
        stop.signal,
      );
      line.sent = line.bytes;
      line.state = 'ready';
      void useSite().load();
    } catch (error) {
      line.state = 'refused';
      line.fault = sentenceOf(error);
    }
    delete line.file;
  }

  async function rename(line: Line, name: string) {
    if (!line.arrival || name === line.arrival.name) return;
    try {
      line.arrival = await api.renameArrival(line.arrival.id, name);
      line.fault = '';
    } catch (error) {
      line.fault = sentenceOf(error);
    }
  }

  /** Bytes that are here already are stored a second time only when the person asks. */
  function keepBoth(line: Line, yes: boolean) {
    line.keepBoth = yes;
  }

  async function drop(line: Line) {
    if (line.arrival) await api.dropArrival(line.arrival.id);
    lines.value = lines.value.filter((one) => one !== line);
    void useSite().load();
  }

  const chosen = computed(() =>
    lines.value.filter(
      (line) => line.state === 'ready' && line.arrival && (line.arrival.sameAs.length === 0 || line.keepBoth),
    ),
  );
  const underway = computed(
    () => lines.value.filter((line) => ['waiting', 'sending', 'checking'].includes(line.state)).length,
  );

  async function bringIn() {
    busy.value = true;
    fault.value = '';
    const now = chosen.value;
    try {
      const done = await api.bringIn(
        now.map((line) => line.arrival!.id),
        folder.value.trim().replace(/^\/+|\/+$/g, ''),
      );
      lines.value = lines.value.filter((line) => !now.includes(line));
      usePlan().done = done;
      await useSite().changed();
      return done.itemIds;
    } catch (error) {
      fault.value = sentenceOf(error);
      return [];
    } finally {
      busy.value = false;
    }
  }

  return { lines, folder, busy, fault, chosen, underway, load, add, rename, keepBoth, drop, bringIn };
});
