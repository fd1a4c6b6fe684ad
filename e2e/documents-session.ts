import { By, Key } from 'selenium-webdriver';
import type { DocumentView } from '../api/documents.ts';
import { PagesSession } from './pages-session.ts';

/** Documents as a person edits them. */
export class DocumentsSession extends PagesSession {
  edit(path: string): Promise<void> {
    return this.go(`/documents?path=${encodeURIComponent(path)}`);
  }

  /** The text in its editor. */
  inEditor(path: string) {
    return this.browser.see(By.css(`[aria-label="Text of ${path}"]`), `the text of ${path}`);
  }

  /** At the end of a text, in the editor. */
  async atTheEnd(path: string): Promise<void> {
    await (await this.inEditor(path)).click();
    await this.browser.hold(Key.CONTROL, Key.END);
  }

  /** Writes a heading, a list of two and an image of the library on lines of their own. */
  async writeList(): Promise<void> {
    const { browser } = this;
    await browser.press(Key.ENTER, 'What to bring');
    await browser.choose('Style', 'Heading 2');
    await browser.press(Key.END, Key.ENTER);
    await browser.click('Bulleted list');
    await browser.press('a red torch', Key.ENTER, 'a blanket', Key.ENTER, Key.ENTER);
    await browser.click('Image …');
    await browser.fill('Words to find', 'dome snow');
    await browser.clickAt(
      By.xpath("//div[@role='dialog']//li/button[contains(., 'dome-snow.jpg')]"),
      'the image',
    );
    await this.alone();
  }

  async save(): Promise<void> {
    await this.browser.click('Save …');
    await this.applyPlan('Save document');
  }

  async undo(title: string): Promise<void> {
    await this.browser.clickAt(By.xpath("//button[normalize-space(.)='Undo']"), 'Undo of what was done');
    await this.applyPlan('Undo', `Undo: ${title}`);
  }

  /** A document as the server has it, with what somebody has not saved yet. */
  async opened(path: string): Promise<DocumentView> {
    const answer = await fetch(`${this.server.address}/api/documents?path=${encodeURIComponent(path)}`);
    return (await answer.json()) as DocumentView;
  }

  /** Saves it as somebody else does in another window. @param change what is kept of it now: its text, or what changes in it */
  async saveElsewhere(path: string, change: (text: string) => string): Promise<void> {
    const { address } = this.server;
    const { sha256, text } = await this.opened(path);
    const post = async (to: string, body: object) =>
      (await (
        await fetch(`${address}/api${to}`, {
          method: 'POST',
          headers: { 'Content-Type': 'application/json', Origin: address },
          body: JSON.stringify(body),
        })
      ).json()) as { id: string };
    const { id } = await post('/plans', { kind: 'document', path, base: sha256, text: change(text) });
    await post(`/plans/${id}/apply`, {});
  }
}
