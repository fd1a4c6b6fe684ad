import { watchDebounced } from '@vueuse/core';
import { ref, type Ref } from 'vue';
import type { EditView, TriedView } from '../../../api/edits.ts';
import { isNothing, type Recipe } from '../../../core/picture/recipe/recipe.ts';
import { sentenceOf } from '../../api/client.ts';
import type { Workpiece } from './workpiece.ts';

/** What a recipe would come to, really encoded, once it has rested for a moment; and why it can’t be made. */
export function useTrial(piece: Workpiece, recipe: Ref<Recipe>, edit: Ref<EditView | undefined>) {
  const tried = ref<TriedView>();
  const trying = ref(false);
  const fault = ref('');
  let asked: AbortController | undefined;
  watchDebounced(
    [recipe, edit],
    async () => {
      if (!edit.value) return;
      asked?.abort();
      asked = new AbortController();
      const mine = asked;
      // The original is what it is.
      if (isNothing(recipe.value)) {
        tried.value = undefined;
        trying.value = false;
        fault.value = '';
        return;
      }
      trying.value = true;
      try {
        tried.value = await piece.tryRecipe(recipe.value, mine.signal);
        fault.value = '';
      } catch (error) {
        if (mine.signal.aborted) return;
        tried.value = undefined;
        fault.value = sentenceOf(error);
      } finally {
        if (mine === asked) trying.value = false;
      }
    },
    { debounce: 500 },
  );
  return { tried, trying, fault };
}
