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
  offsetParent: Element;
  style: CSSStyleDeclaration;
  title: string;
}

interface Event {
  // Of htmx's own events, and of ours.
  detail: any;
}
