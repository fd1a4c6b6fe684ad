<script setup lang="ts">
import { ref } from 'vue';
import { useRouter } from 'vue-router';
import { usePlan } from '../stores/plan.ts';
import { useTray } from '../stores/tray.ts';
import ItemPicture from './ItemPicture.vue';
import LookCloser from './LookCloser.vue';
import TrayActs, { type Act } from './TrayActs.vue';
import { count, weight } from './words.ts';

const tray = useTray();
const plan = usePlan();
const router = useRouter();
const act = ref<Act>();
/** Two to four that are looked at side by side. */
const compared = ref<number[]>();

function setAside() {
  void plan.propose({ kind: 'set-aside', itemIds: [...tray.ids] });
}
</script>

<template>
  <section v-if="tray.size" class="tray" aria-label="Tray">
    <div class="pictures">
      <button
        v-for="item in tray.last.slice(-4)"
        :key="item.id"
        type="button"
        :title="`Take ${item.name} out of the tray`"
        @click="tray.toggle(item.id)"
      >
        <ItemPicture
          :sha256="item.sha256"
          :kind="item.kind"
          :name="item.name"
          :alt="`Take ${item.name} out of the tray`"
        />
      </button>
    </div>
    <p class="figures">
      <strong>{{ count(tray.size, 'item') }}</strong> gathered, {{ weight(tray.bytes) }}<br />
      <button class="link" type="button" @click="tray.clear()">Empty the tray</button>
    </p>
    <div class="acts" role="group" aria-label="What to do with them">
      <button
        v-if="tray.size >= 2 && tray.size <= 4"
        class="act quiet"
        type="button"
        @click="compared = [...tray.ids]"
      >
        Compare
      </button>
      <button class="act quiet" type="button" @click="act = 'tags'">Tags …</button>
      <button class="act quiet" type="button" @click="act = 'words'">Words …</button>
      <button class="act quiet" type="button" @click="act = 'move'">Move …</button>
      <button class="act quiet" type="button" @click="act = 'owner'">Give to …</button>
      <button class="act quiet" type="button" @click="act = 'addresses'">Addresses …</button>
      <button
        class="act quiet"
        type="button"
        @click="router.push({ name: 'export', query: { what: 'tray' } })"
      >
        Export
      </button>
      <button class="act losing" type="button" @click="setAside">Set aside …</button>
    </div>
    <LookCloser v-if="compared" :ids="compared" @close="compared = undefined" />
    <TrayActs v-if="act" :act="act" @close="act = undefined" />
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
.acts .act {
  padding-right: 9px;
  padding-left: 9px;
}
p {
  flex: 1;
  white-space: nowrap;
}
</style>
