import { useDebounceFn } from '@vueuse/core';
import { onUnmounted, ref, shallowRef, watch, type Ref } from 'vue';
import type { Levels, Recipe } from '../../../core/picture/recipe/recipe.ts';

/** What is wanted beside the image itself. */
export interface Looks {
  /** The image before its tone as well. */
  compare: boolean;
  /** What is clipped is marked. */
  clipping: boolean;
  /** How bright the frame is, cell by cell, for text that is to stand on it. */
  cells: boolean;
}
export type PreviewRequest =
  | { image: ImageBitmap }
  | {
      number: number;
      recipe: Recipe;
      /** Pixels of the canvas for each of the image. */
      scale: number;
      looks: Looks;
    };
export interface PreviewAnswer {
  number: number;
  bitmap: ImageBitmap;
  /** That it was drawn at. */
  scale: number;
  /** Milliseconds that drawing took. */
  took: number;
  /** Only where it is another than the last. */
  histogram?: Uint32Array;
  /** Those that were found. */
  levels?: Levels;
  plain?: ImageBitmap;
  cells?: Uint8Array;
  /** The colour of its edge, for a style, where that fills the frame beyond it. */
  edge?: string;
}

/** Milliseconds of a frame that drawing may take: the window needs the rest. */
const FRAME_PART = 9;
/** Of the scale, while something moves that takes longer: a quarter of the pixels. */
const COARSE = 0.5;
/** Milliseconds after which nothing moves any more. */
const REST = 160;

/**
 * An image drawn in a worker as its recipe says. While one is drawn, only the last that was wanted meanwhile waits. What is too slow to
 * follow a slider is drawn coarser while it moves, and finely once it rests.
 */
export function usePreview(
  image: Ref<ImageBitmap | undefined>,
  recipe: Ref<Recipe>,
  scale: Ref<number>,
  looks: Ref<Looks>,
) {
  const worker = new Worker(new URL('./preview-worker.ts', import.meta.url), { type: 'module' });
  onUnmounted(() => worker.terminate());
  const bitmap = shallowRef<ImageBitmap>();
  const histogram = shallowRef<Uint32Array>();
  const levels = ref<Levels>();
  const plain = shallowRef<ImageBitmap>();
  const cells = shallowRef<Uint8Array>();
  const edge = ref<string>();
  /** That the bitmap was drawn at. */
  const drawnAt = ref(0);
  let asked = 0;
  let drawing = false;
  let wanted = false;
  /** The worker has the image; before, it could draw nothing and would answer nothing. */
  let there = false;
  /** What moves is too slow to be drawn finely. */
  let coarse = false;
  let changedAt = -Infinity;

  function changed() {
    const now = performance.now();
    if (now - changedAt > REST) coarse = false;
    changedAt = now;
    draw();
  }
  const settle = useDebounceFn(() => {
    if (!coarse) return;
    coarse = false;
    draw();
  }, REST);

  function draw() {
    if (!there || scale.value <= 0) return;
    if (drawing) {
      wanted = true;
      return;
    }
    drawing = true;
    wanted = false;
    const look = {
      number: ++asked,
      // What is reactive can't be sent.
      recipe: JSON.parse(JSON.stringify(recipe.value)) as Recipe,
      scale: scale.value * (coarse ? COARSE : 1),
      looks: { ...looks.value },
    };
    worker.postMessage(look satisfies PreviewRequest);
  }
  worker.onmessage = ({ data }: MessageEvent<PreviewAnswer>) => {
    drawing = false;
    bitmap.value?.close();
    bitmap.value = data.bitmap;
    drawnAt.value = data.scale;
    if (data.took > FRAME_PART && performance.now() - changedAt < REST) coarse = true;
    if (coarse) void settle();
    if (data.histogram) histogram.value = data.histogram;
    levels.value = data.levels;
    plain.value?.close();
    plain.value = data.plain;
    cells.value = data.cells;
    edge.value = data.edge;
    if (wanted) draw();
  };
  watch(image, async (one) => {
    if (!one) return;
    const copy = await createImageBitmap(one);
    worker.postMessage({ image: copy } satisfies PreviewRequest, [copy]);
    there = true;
    draw();
  });
  watch([recipe, scale, looks], changed);
  return { bitmap, drawnAt, histogram, levels, plain, cells, edge };
}
