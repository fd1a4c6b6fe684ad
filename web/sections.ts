import {
  PhBooks,
  PhBroom,
  PhFileText,
  PhNotebook,
  PhPackage,
  PhPencilLine,
  PhTray,
  PhUserList,
} from '@phosphor-icons/vue';
import { computed, type Component } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { useIntake } from './stores/intake.ts';
import { useSite } from './stores/site.ts';

interface Section {
  name: string;
  word: string;
  glyph: Component;
  waits: number;
  waitsFor: [one: string, many: string];
}

/** The sections of the rail, as far as they are open to the person who is signed in, with what waits in each. */
export function useSections() {
  const store = useSite();
  const intake = useIntake();
  const route = useRoute();
  const router = useRouter();
  const counts = computed(() => store.site?.counts);
  const all = computed<Section[]>(() => [
    {
      name: 'intake',
      word: 'Intake',
      glyph: PhTray,
      waits: intake.lines.length,
      waitsFor: ['file waiting', 'files waiting'],
    },
    {
      name: 'mine',
      word: 'Mine',
      glyph: PhUserList,
      waits: (counts.value?.toApprove ?? 0) + (counts.value?.sentBack ?? 0),
      waitsFor: ['proposal that waits for you', 'proposals that wait for you'],
    },
    { name: 'library', word: 'Library', glyph: PhBooks, waits: 0, waitsFor: ['', ''] },
    {
      name: 'describe',
      word: 'Describe',
      glyph: PhPencilLine,
      waits: counts.value?.undescribed ?? 0,
      waitsFor: ['image without alt text', 'images without alt text'],
    },
    {
      name: 'pages',
      word: 'Pages',
      glyph: PhFileText,
      waits: counts.value?.broken ?? 0,
      waitsFor: ['broken reference', 'broken references'],
    },
    {
      name: 'upkeep',
      word: 'Upkeep',
      glyph: PhBroom,
      waits: store.site?.useUnknown ? 0 : (counts.value?.cleanable ?? 0),
      waitsFor: ['unused or duplicate item', 'unused or duplicate items'],
    },
    { name: 'export', word: 'Export', glyph: PhPackage, waits: 0, waitsFor: ['', ''] },
    { name: 'ledger', word: 'Ledger', glyph: PhNotebook, waits: 0, waitsFor: ['', ''] },
  ]);
  const open = (name: string) => store.may(router.resolve({ name }).meta.right ?? 'sign-in');
  const sections = computed(() => all.value.filter(({ name }) => !store.site || open(name)));
  /** The right that the person lacks for the section that is shown. */
  const closed = computed(() => {
    const { right } = route.meta;
    return right && store.site && !store.may(right) ? right : undefined;
  });
  return { sections, closed };
}
