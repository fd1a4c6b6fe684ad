<script setup lang="ts">
import { usePreferredDark } from '@vueuse/core';
import { BarController, BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js';
import { computed, onMounted, onUnmounted, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import type { Overview } from '../../../api/upkeep.ts';
import { weight } from '../../parts/words.ts';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import AppFold from '../../kit/AppFold.vue';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);

/** Where the weight lies: by kind, folder and year; each bar leads to its items, and every number can be read as text. */
const props = defineProps<{ overview: Overview }>();
const router = useRouter();

const KINDS = {
  image: 'images',
  video: 'videos',
  audio: 'audio',
  document: 'documents',
  other: 'other files',
};
const COLUMNS: Column<Bar>[] = [
  { key: 'name', label: 'What' },
  { key: 'items', label: 'Items', width: 64, number: true },
  { key: 'bytes', label: 'File size', width: 80, number: true },
];
const UNUSED: Column<Bar> = { key: 'unused', label: 'Unused', width: 110, number: true };
/** More bars cannot be told apart. */
const MOST = 7;

interface Bar {
  name: string;
  bytes: number;
  items: number;
  /** Of these, how many bytes nothing uses. */
  unused?: number;
  to?: object;
}
const charts = computed<{ title: string; bars: Bar[] }[]>(() => {
  const { byKind, byFolder, byMonth } = props.overview;
  const library = (query: object) => ({ name: 'library', query });
  const folders: Bar[] = byFolder.map(({ folder, ...rest }) => ({
    name: folder || 'the root',
    ...rest,
    to: library({ folder }),
  }));
  const rest = folders.slice(MOST);
  return [
    {
      title: 'By kind',
      bars: byKind.map(({ kind, ...one }) => ({
        name: KINDS[kind],
        ...one,
        to: library({ where: `kind:${kind}` }),
      })),
    },
    {
      title: 'By folder',
      bars:
        rest.length > 1
          ? [
              ...folders.slice(0, MOST),
              {
                name: `${rest.length} others`,
                bytes: rest.reduce((sum, one) => sum + one.bytes, 0),
                items: rest.reduce((sum, one) => sum + one.items, 0),
              },
            ]
          : folders,
    },
    {
      title: `By ${byMonth.length > MOST ? 'year' : 'month'} added (unused part hatched)`,
      bars: byAge(byMonth).map(({ name, ...one }) => ({ name, ...one, to: library({ sort: 'added' }) })),
    },
  ];
});

/** By month where these are few, else by year, the latest. */
function byAge(months: Overview['byMonth']): Bar[] {
  if (months.length <= MOST) return months.map(({ month, ...one }) => ({ name: month, ...one }));
  const years = new Map<string, Required<Omit<Bar, 'to'>>>();
  for (const { month, items, bytes, unused } of months) {
    const name = month.slice(0, 4);
    const sum = years.get(name) ?? { name, items: 0, bytes: 0, unused: 0 };
    years.set(name, {
      name,
      items: sum.items + items,
      bytes: sum.bytes + bytes,
      unused: sum.unused + unused,
    });
  }
  return [...years.values()].slice(-MOST - 1);
}

const canvases = ref<HTMLCanvasElement[]>([]);
let drawn: Chart[] = [];
const colour = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** Lines across, so that the part is seen without colour, too. */
function hatched(): CanvasPattern | string {
  const tile = document.createElement('canvas');
  tile.width = tile.height = 6;
  const pen = tile.getContext('2d');
  if (!pen) return colour('--ochre');
  pen.fillStyle = colour('--ochre-wash');
  pen.fillRect(0, 0, 6, 6);
  pen.strokeStyle = colour('--ochre');
  pen.beginPath();
  pen.moveTo(0, 6);
  pen.lineTo(6, 0);
  pen.stroke();
  return pen.createPattern(tile, 'repeat') ?? colour('--ochre');
}
function draw() {
  for (const chart of drawn) chart.destroy();
  const font = { family: getComputedStyle(document.body).fontFamily, size: 12 };
  drawn = canvases.value.map((canvas, at) => {
    const { bars } = charts.value[at]!;
    const unused = bars.some((bar) => bar.unused !== undefined);
    return new Chart(canvas, {
      type: 'bar',
      data: {
        labels: bars.map((bar) => bar.name),
        datasets: [
          {
            label: unused ? 'used' : 'weight',
            data: bars.map((bar) => bar.bytes - (bar.unused ?? 0)),
            backgroundColor: colour('--verdigris'),
            maxBarThickness: 16,
          },
          ...(unused
            ? [
                {
                  label: 'unused',
                  data: bars.map((bar) => bar.unused ?? 0),
                  backgroundColor: hatched(),
                  maxBarThickness: 16,
                },
              ]
            : []),
        ],
      },
      options: {
        indexAxis: 'y',
        animation: false,
        maintainAspectRatio: false,
        onClick: (_event, [hit]) => {
          const to = hit && bars[hit.index]?.to;
          if (to) void router.push(to);
        },
        plugins: {
          tooltip: { callbacks: { label: ({ raw, dataset }) => `${dataset.label}: ${weight(Number(raw))}` } },
        },
        scales: {
          x: {
            stacked: true,
            ticks: {
              font,
              color: colour('--ink-soft'),
              maxTicksLimit: 4,
              callback: (value) => weight(Number(value)),
            },
            grid: { color: colour('--rule') },
          },
          y: { stacked: true, ticks: { font, color: colour('--ink') }, grid: { display: false } },
        },
      },
    });
  });
}
onMounted(draw);
watch([charts, usePreferredDark()], draw, { flush: 'post' });
onUnmounted(() => {
  for (const chart of drawn) chart.destroy();
});
</script>

<template>
  <section class="charts" aria-label="Where the weight lies">
    <figure v-for="chart in charts" :key="chart.title">
      <figcaption>{{ chart.title }}</figcaption>
      <div class="drawing"><canvas ref="canvases" aria-hidden="true"></canvas></div>
      <AppFold title="Show numbers">
        <AppTable
          :label="chart.title"
          bare
          :rows="chart.bars"
          :columns="chart.bars.some((bar) => bar.unused !== undefined) ? [...COLUMNS, UNUSED] : COLUMNS"
          :row-key="(bar) => bar.name"
        >
          <template #name="{ row: bar }"
            ><RouterLink v-if="bar.to" :to="bar.to">{{ bar.name }}</RouterLink
            ><template v-else>{{ bar.name }}</template></template
          >
          <template #items="{ row: bar }">{{ bar.items.toLocaleString('en') }}</template>
          <template #bytes="{ row: bar }">{{ weight(bar.bytes) }}</template>
          <template #unused="{ row: bar }">{{
            bar.unused === undefined ? '' : `${weight(bar.unused)} unused`
          }}</template>
        </AppTable>
      </AppFold>
    </figure>
  </section>
</template>

<style scoped>
.charts {
  display: grid;
  margin-top: 16px;
  gap: 20px;
  grid-template-columns: repeat(3, 1fr);
}
figure {
  min-width: 0;
  margin: 0;
}
figcaption {
  font-size: 12.5px;
  font-weight: 650;
}
.drawing {
  position: relative;
  height: 190px;
}
summary {
  cursor: pointer;
}
@media (width <= 1100px) {
  .charts {
    grid-template-columns: 1fr;
  }
}
</style>
