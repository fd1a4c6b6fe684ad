<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue';
import type { Overview } from '../../../api/upkeep.ts';
import { CHECK_GROUPS, CHECKS, type CheckGroup } from '../../../core/upkeep/checks.ts';
import { weight } from '../../parts/words.ts';

/** Every check with what it finds; those that find nothing stand pale, so that one sees they were made. */
const props = defineProps<{ overview: Overview | undefined; queue: string }>();
const groups = computed(() =>
  (Object.entries(CHECK_GROUPS) as [CheckGroup, string][]).map(([group, name]) => ({
    name,
    checks: (props.overview?.checks ?? []).filter((one) => CHECKS[one.name].group === group),
  })),
);
const nav = ref<HTMLElement>();
// A queue that was opened from elsewhere may lie below the fold.
watch(
  () => [props.queue, props.overview !== undefined],
  async () => {
    await nextTick();
    nav.value?.querySelector('.current')?.scrollIntoView({ block: 'nearest' });
  },
  { immediate: true },
);
</script>

<template>
  <nav ref="nav" aria-label="Queues">
    <h1>Upkeep</h1>
    <RouterLink :to="{ query: {} }" :class="{ current: queue === '' }"><span>Overview</span></RouterLink>
    <template v-if="overview">
      <section v-for="group in groups" :key="group.name">
        <h2>{{ group.name }}</h2>
        <RouterLink
          v-for="one in group.checks"
          :key="one.name"
          :to="{ query: { queue: one.name } }"
          :class="{ current: queue === one.name, none: one.found === 0 }"
          :aria-current="queue === one.name ? 'page' : undefined"
        >
          <span>{{ CHECKS[one.name].name }}</span>
          <span class="figures"
            ><b v-if="one.fresh" class="fresh" :title="`${one.fresh} new since you looked`"
              >+{{ one.fresh }}</b
            >
            {{ one.found.toLocaleString('en') }}</span
          >
        </RouterLink>
      </section>
      <section>
        <h2>Kept</h2>
        <RouterLink :to="{ query: { queue: 'aside' } }" :class="{ current: queue === 'aside' }">
          <span>Set aside</span
          ><span class="figures"
            >{{ overview.aside.items.toLocaleString('en') }}
            <span class="soft">{{ overview.aside.items ? weight(overview.aside.bytes) : '' }}</span></span
          >
        </RouterLink>
        <RouterLink :to="{ query: { queue: 'dismissed' } }" :class="{ current: queue === 'dismissed' }">
          <span>Dismissed</span><span class="figures">{{ overview.dismissed.toLocaleString('en') }}</span>
        </RouterLink>
      </section>
    </template>
  </nav>
</template>

<style scoped>
nav {
  width: 248px;
  flex: none;
  padding: 14px 0;
  border-right: 1px solid var(--rule);
  overflow: auto;
}
@media (width <= 760px) {
  nav {
    width: auto;
    max-height: 34dvh;
    padding: 8px 0;
    border-right: 0;
    border-bottom: 1px solid var(--rule);
  }
}
h1 {
  padding: 0 16px 8px;
}
h2 {
  padding: 10px 16px 2px;
  color: var(--ink-soft);
  font-size: 12.5px;
}
a {
  display: flex;
  justify-content: space-between;
  min-height: 26px;
  padding: 2px 16px;
  color: var(--ink);
  gap: 8px;
  text-decoration: none;
}
a:hover {
  background: var(--paper-sunk);
}
a.none {
  color: var(--ink-soft);
}
a.current {
  background: var(--verdigris-wash);
  color: var(--verdigris);
  font-weight: 600;
}
.fresh {
  color: var(--ochre);
}
</style>
