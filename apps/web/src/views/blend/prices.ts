import type { CueKind, Extra, Price } from '@pebble/core';
import { cuePrice, extraPrice } from '@pebble/core';

export const priceText = ({ samples, operations }: Price): string =>
  [samples ? `+${samples} sample${samples === 1 ? '' : 's'}` : '', operations ? `+${operations} ops` : ''].filter(Boolean).join(', ') || 'free';

/** Texts of prices, each worked out once. */
function remembered<K>(price: (of: K) => Price): (of: K) => string {
  const known = new Map<K, string>();
  return (of) => {
    let text = known.get(of);
    if (text === undefined) known.set(of, (text = priceText(price(of))));
    return text;
  };
}

/** What one more cue of a kind costs a pixel. */
export const cuePriceText = remembered<CueKind>(cuePrice);
/** What an extra of a layer costs a pixel once it is used. */
export const extraPriceText = remembered<Extra>(extraPrice);
