<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { usePlan } from '../stores/plan.ts';
import { usePreparing } from '../stores/preparing.ts';
import { useSite } from '../stores/site.ts';
import { useTray, type TrayAct } from '../stores/tray.ts';
import ItemPicture from './ItemPicture.vue';
import { offered } from './tray-acts.ts';
import { count, weight } from './words.ts';
import AppButton from '../kit/AppButton.vue';
import AppMenu from '../kit/AppMenu.vue';
import { laterPart } from '../kit/later.ts';

const LookCloser = laterPart(() => import('./LookCloser.vue'));
const TrayActs = laterPart(() => import('./TrayActs.vue'));

const tray = useTray();
const site = useSite();
const plan = usePlan();
const router = useRouter();
/** Two to four that are looked at side by side. */
const compared = ref<number[]>();
const preparing = usePreparing();
const bar = ref<HTMLElement>();

const acts = computed(() => offered(tray, site.can));
const dialog = computed(() => {
  const { act } = tray;
  return act === 'tags' ||
    act === 'words' ||
    act === 'move' ||
    act === 'copy' ||
    act === 'owner' ||
    act === 'family' ||
    act === 'addresses'
    ? act
    : undefined;
});
/** Acts that need no more than the items themselves. */
watch(
  () => tray.act,
  (act) => {
    if (!act || dialog.value) return;
    tray.act = undefined;
    const itemIds = [...tray.ids];
    if (act === 'compare') compared.value = itemIds;
    else if (act === 'prepare') preparing.start(itemIds, 'in the tray');
    else if (act === 'duplicate') void plan.propose({ kind: 'copies', itemIds, folder: null });
    else if (act === 'publish' || act === 'withdraw' || act === 'discard')
      void plan.propose({ kind: act, itemIds });
    else if (act === 'restore') void plan.propose({ kind: 'restore', itemIds });
    else if (act === 'aside') void plan.propose({ kind: 'set-aside', itemIds });
    else if (act === 'embed') void plan.propose({ kind: 'embed', itemIds, as: 'file' });
    else if (act === 'sidecars') void plan.propose({ kind: 'embed', itemIds, as: 'sidecar' });
    else if (act === 'suggest') void router.push({ name: 'suggested-tags', query: { of: 'tray' } });
    else if (act === 'names') void router.push({ name: 'names', query: { what: 'tray' } });
    else if (act === 'export') void router.push({ name: 'export', query: { what: 'tray' } });
    else if (act === 'download') window.location.href = `/api/items/${itemIds[0]}/file`;
  },
);
function start(act: TrayAct) {
  tray.act = act;
}
</script>

<template>
  <section v-if="tray.size" ref="bar" class="tray" aria-label="Tray">
    <div class="pictures">
      <AppButton
        v-for="item in tray.last.slice(-4)"
        :key="item.id"
        look="tile"
        :title="`Remove ${item.name} from the tray`"
        @click="tray.toggle(item.id)"
        ><ItemPicture
          :sha256="item.sha256"
          :kind="item.kind"
          :name="item.name"
          :alt="`Remove ${item.name} from the tray`"
        />
      </AppButton>
    </div>
    <p class="figures">
      <strong>{{ count(tray.size, 'item') }}</strong> in the tray, {{ weight(tray.bytes) }}<br />
      <AppButton look="link" @click="tray.clear()">Empty tray</AppButton>
    </p>
    <div class="acts" role="group" aria-label="Actions for the tray">
      <AppButton
        v-for="one in acts.first"
        :key="one.act"
        :danger="one.losing"
        :aria-keyshortcuts="one.key"
        @click="start(one.act)"
        >{{ one.words }} <kbd>{{ one.key }}</kbd>
      </AppButton>
      <AppMenu
        label="More actions"
        :items="
          acts.more.map((one) => ({ key: one.act, label: one.words, keys: one.key, danger: one.losing }))
        "
        @choose="start"
        ><AppButton>More …</AppButton>
      </AppMenu>
    </div>
    <LookCloser v-if="compared" :ids="compared" @close="compared = undefined" />
    <TrayActs v-if="dialog" :key="dialog" :act="dialog" @close="tray.act = undefined" />
  </section>
</template>

<style scoped>
.tray {
  display: flex;
  min-height: 56px;
  align-items: center;
  gap: 8px 14px;
  padding: 6px 24px;
  border-top: 1px solid var(--rule-strong);
  background: var(--paper-raised);
}
.pictures {
  display: flex;
  gap: 4px;
}
.pictures button {
  width: 44px;
  height: 40px;
  padding: 0;
  border: 0;
  background: none;
  cursor: pointer;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  justify-content: flex-end;
  gap: 6px;
}
.acts .app-button {
  padding-right: 9px;
  padding-left: 11px;
}
@media (max-width: 1100px) {
  .pictures button:nth-child(n + 3) {
    display: none;
  }
  .acts .app-button {
    padding: 4px 6px;
  }
}
p {
  flex: 1;
  white-space: nowrap;
}
@media (width <= 760px) {
  .tray {
    min-height: 0;
    flex-wrap: wrap;
    padding: 4px 10px;
    gap: 4px 10px;
  }
  .pictures {
    display: none;
  }
  /* One row, moved sideways. */
  .acts {
    width: 100%;
    flex-wrap: nowrap;
    justify-content: flex-start;
    overflow-x: auto;
  }
  .acts > * {
    flex: none;
  }
}
</style>
