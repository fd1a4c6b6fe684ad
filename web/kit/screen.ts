import { useMediaQuery } from '@vueuse/core';

/** Below this the folders lie in a drawer. The same width stands in the style sheets. */
export const useFolded = () => useMediaQuery('(width <= 1100px)');
/** Below this everything stands in one column: a phone, or a laptop at 200 %. */
export const useOneColumn = () => useMediaQuery('(width <= 760px)');
