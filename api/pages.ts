import { z } from 'zod';

const lines = z.array(z.string().max(2000)).max(200);

/** How the site's folder is laid out, in lines; an empty part is found out, or holds everywhere. */
export const LayoutLines = z.object({
  public: lines,
  pages: lines,
  media: lines,
  leftOut: lines,
  published: lines,
});
export type LayoutLines = z.infer<typeof LayoutLines>;

/** As it is set, and what is used. */
export interface LayoutView {
  set: LayoutLines;
  /** Folders that are served from the root now, set or found out. */
  public: string[];
  /** Own addresses, set or learned from the pages. */
  published: string[];
  folders: string[];
}
