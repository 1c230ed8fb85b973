// The styles of the component library, kept once they were met: it drops those of what no page shows and works them out anew.
import { createCache } from "@ant-design/cssinjs";

export const styles = createCache();
const update = styles.opUpdate.bind(styles);

// One more than there are users, so that none is ever the last.
styles.opUpdate = (path, next) =>
  update(path, (before) => {
    const now = next(before);
    return before || !now ? now : [now[0] + 1, now[1]];
  });
