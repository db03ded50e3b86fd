// What the type checker cannot know of a page: which element of a template an id or a selector names, and which of them
// an event came from. Everything else (our modules, their functions and fields, the browser's objects) is checked.

declare const htmx: {
  ajax(method: string, path: string, options: object): Promise<void>;
  process(element: Element): void;
  trigger(element: Element, name: string, detail?: object): void;
};

interface AnyElement {
  checked: boolean;
  close(): void;
  disabled: boolean;
  files: FileList;
  getContext(kind: "2d"): CanvasRenderingContext2D;
  height: any;
  name: string;
  open: boolean;
  options: HTMLOptionsCollection;
  readOnly: boolean;
  reset(): void;
  select(): void;
  showModal(): void;
  src: string;
  type: string;
  value: any;
  width: any;
}

interface EventTarget extends AnyElement {
  classList: DOMTokenList;
  closest(selectors: string): HTMLElement;
  dataset: DOMStringMap;
  id: string;
  matches(selectors: string): boolean;
  querySelector(selectors: string): HTMLElement;
}

interface Element extends AnyElement {
  click(): void;
  dataset: DOMStringMap;
  focus(options?: FocusOptions): void;
  hidden: any;
  offsetParent: Element | null;
  querySelector(selectors: string): HTMLElement;
  style: CSSStyleDeclaration;
  title: string;
}

// An id or a selector names an element that the templates have; a test looks for each id there.
interface Document {
  getElementById(id: string): HTMLElement;
  querySelector(selectors: string): HTMLElement;
}

interface HTMLCanvasElement {
  getContext(kind: "2d", options?: CanvasRenderingContext2DSettings): CanvasRenderingContext2D;
}

interface OffscreenCanvas {
  getContext(kind: "2d", options?: CanvasRenderingContext2DSettings): OffscreenCanvasRenderingContext2D;
}

interface Event {
  // Of htmx's own events, and of ours.
  detail: any;
}
