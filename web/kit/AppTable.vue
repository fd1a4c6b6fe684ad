<script lang="ts">
/** A column of a table: its heading, and how what stands in it is laid out. */
export interface Column<Row> {
  key: string;
  label: string;
  /** CSS pixels; without it the column shares the room that is left. */
  width?: number;
  minWidth?: number;
  /** Numbers stand to the right, one under the other. */
  number?: boolean;
  mono?: boolean;
  /** Sorted by this when its heading is clicked. */
  sortBy?: (row: Row) => string | number;
  /** The heading is for screen readers only. */
  silent?: boolean;
}
</script>

<script setup lang="ts" generic="Row extends object">
import { ElTable, ElTableColumn } from 'element-plus/es/components/table/index';
import 'element-plus/es/components/table/style/css';
import './table.css';

/** A short table. What stands in a cell is drawn by the slot with the column's key; else the row's own field is shown. */
defineProps<{
  label: string;
  rows: readonly Row[];
  columns: readonly Column<Row>[];
  rowKey: (row: Row) => string;
  /** Without headings. */
  bare?: boolean;
  /** Rows below which the slot `expanded` stands. */
  expanded?: readonly string[];
  rowClass?: (row: Row) => string;
}>();
defineSlots<Record<string, (slot: { row: Row }) => unknown>>();
const field = (row: Row, key: string) => (row as Record<string, unknown>)[key];
</script>

<template>
  <ElTable
    class="app-table"
    :aria-label="label"
    :data="rows as Row[]"
    :row-key="rowKey as (row: unknown) => string"
    :show-header="!bare"
    :expand-row-keys="expanded ? [...expanded] : undefined"
    :row-class-name="rowClass ? ({ row }) => rowClass!(row as Row) : ''"
    tooltip-effect="light"
    scrollbar-always-on
  >
    <ElTableColumn
      v-if="$slots['expanded']"
      type="expand"
      width="1"
      label="Details"
      class-name="opener"
      label-class-name="silent"
    >
      <template #default="{ row }: { row: Row }"
        ><div><slot name="expanded" :row="row"></slot></div
      ></template>
    </ElTableColumn>
    <ElTableColumn
      v-for="column in columns"
      :key="column.key"
      :prop="column.key"
      :label="column.label"
      :width="column.width"
      :min-width="column.minWidth ?? 90"
      :align="column.number ? 'right' : 'left'"
      :sortable="column.sortBy ? true : false"
      :sort-by="column.sortBy as never"
      :class-name="[column.number ? 'figures' : '', column.mono ? 'mono' : ''].join(' ')"
      :label-class-name="column.silent ? 'silent' : ''"
    >
      <!-- Within one element: the library draws what stands here free once more, for a row that is not there. -->
      <template #default="{ row }: { row: Row }"
        ><div>
          <slot :name="column.key" :row="row">{{ field(row, column.key) }}</slot>
        </div></template
      >
    </ElTableColumn>
  </ElTable>
</template>
