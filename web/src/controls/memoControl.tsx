import { isValidElement, memo, useLayoutEffect, useRef, useState, type ComponentType } from 'react';

type Handler = (...args: never[]) => unknown;
type Props = Record<string, unknown>;

const HANDLER = /^on[A-Z]/;

/**
 * Renders a control again only when its props look different. Handlers (props whose names begin with "on") always call the
 * newest function and never cause a render, so callers need not memoize them. A different function under any other name
 * counts as a different look, since it may draw.
 */
export function memoControl<C>(Control: C): C {
  const Painted = memo(Control as ComponentType<Props>, sameLook) as ComponentType<Props>;
  function Memoized(props: Props) {
    const newest = useRef(props);
    useLayoutEffect(() => {
      newest.current = props;
    });
    const [handlers] = useState(() => new Map<string, Handler>());
    const steady = { ...props };
    for (const [name, value] of Object.entries(props)) {
      if (typeof value !== 'function' || !HANDLER.test(name)) continue;
      let handler = handlers.get(name);
      if (!handler) {
        handler = (...args) => (newest.current[name] as Handler)(...args);
        handlers.set(name, handler);
      }
      steady[name] = handler;
    }
    return <Painted {...steady} />;
  }
  return Memoized as C;
}

/** Whether two values look the same: lists, plain objects and elements by what they hold. */
export function sameLook(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a) || Array.isArray(b))
    return (
      Array.isArray(a) &&
      Array.isArray(b) &&
      a.length === b.length &&
      a.every((each, i) => sameLook(each, b[i]))
    );
  if (isValidElement(a) || isValidElement(b))
    return (
      isValidElement(a) &&
      isValidElement(b) &&
      a.type === b.type &&
      a.key === b.key &&
      sameLook(a.props, b.props)
    );
  if (Object.getPrototypeOf(a) !== Object.prototype || Object.getPrototypeOf(b) !== Object.prototype)
    return false;
  const [first, second] = [a as Record<string, unknown>, b as Record<string, unknown>];
  const names = Object.keys(first);
  return (
    names.length === Object.keys(second).length && names.every((name) => sameLook(first[name], second[name]))
  );
}
