import type { InjectionKey } from 'vue';

/** What a pane tells its edge. */
export interface PaneEdge {
  readonly side: 'start' | 'end';
  readonly label: string;
  readonly size: number;
  readonly min: number;
  readonly max: number;
  onKey(event: KeyboardEvent): void;
}
export const PANE_EDGE: InjectionKey<PaneEdge> = Symbol('pane edge');
