import type { RouteLocationRaw } from 'vue-router';
import type { EditView, SubjectView, TriedView } from '../../../api/edits.ts';
import type { ItemDetail } from '../../../api/items.ts';
import type { Recipe } from '../../../core/picture/recipe/recipe.ts';
import { api } from '../../api/client.ts';

/** What lies on the bench: an item of the library, or a file that waits to be brought in. */
export interface Workpiece {
  /** By which what is being made of it is kept in this window. */
  key: string;
  load(): Promise<{ edit: EditView; detail?: ItemDetail }>;
  /** Where its original is to be had as the bench shows it. */
  image(edit: EditView): string;
  tryRecipe(recipe: Recipe, signal: AbortSignal): Promise<TriedView>;
  /** The thing on its original. */
  subject(): Promise<SubjectView>;
  /** The very file that would be saved. */
  made(recipe: Recipe, signal: AbortSignal): Promise<Blob>;
  /** Where it lies; people who came from elsewhere go back there instead. */
  place(detail: ItemDetail | undefined): RouteLocationRaw;
  /** A file that waits: what is made of it is set there at once, as nothing of it is on the site yet. */
  arrival?: number;
}

export const itemPiece = (id: number): Workpiece => ({
  key: String(id),
  load: async () => {
    const [edit, detail] = await Promise.all([api.edit('items', id), api.item(id)]);
    return { edit, detail };
  },
  image: (edit) => `/api/items/${id}/edit/image?of=${edit.original.sha256}`,
  tryRecipe: (recipe, signal) => api.tryRecipe('items', id, recipe, signal),
  made: (recipe, signal) => api.madeImage('items', id, recipe, signal),
  subject: () => api.subject('items', id),
  place: (detail) => ({ name: 'library', query: { folder: detail?.item.folder || undefined, item: id } }),
});

export const arrivalPiece = (id: number): Workpiece => ({
  key: `arrival-${id}`,
  load: async () => ({ edit: await api.edit('arrivals', id) }),
  image: (edit) => `/api/arrivals/${id}/edit/image?of=${edit.original.sha256}`,
  tryRecipe: (recipe, signal) => api.tryRecipe('arrivals', id, recipe, signal),
  made: (recipe, signal) => api.madeImage('arrivals', id, recipe, signal),
  subject: () => api.subject('arrivals', id),
  place: () => ({ name: 'intake' }),
  arrival: id,
});
