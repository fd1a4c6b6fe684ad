<script setup lang="ts">
import { useRouter } from 'vue-router';
import { usePlan } from '../stores/plan.ts';
import { useTray } from '../stores/tray.ts';
import ItemPicture from './ItemPicture.vue';
import { count, weight } from './words.ts';

const tray = useTray();
const plan = usePlan();
const router = useRouter();

function setAside() {
  void plan.propose({ kind: 'set-aside', itemIds: tray.items.map((item) => item.id) });
}
</script>

<template>
  <section v-if="tray.items.length" class="tray" aria-label="Tray">
    <div class="pictures">
      <button
        v-for="item in tray.items.slice(-12)"
        :key="item.id"
        type="button"
        :title="`Take ${item.name} out of the tray`"
        @click="tray.toggle(item)"
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
      <strong>{{ count(tray.items.length, 'item') }}</strong> gathered, {{ weight(tray.bytes) }}
    </p>
    <button class="act quiet" type="button" @click="router.push({ name: 'export', query: { what: 'tray' } })">
      Export
    </button>
    <button class="act losing" type="button" @click="setAside">Set aside …</button>
    <button class="link" type="button" @click="tray.clear()">Empty the tray</button>
  </section>
</template>

<style scoped>
.tray {
  display: flex;
  height: 56px;
  align-items: center;
  gap: 14px;
  padding: 0 24px;
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
p {
  flex: 1;
}
</style>
