/**
 * What lookouts watch for: levels, moves, values that stand still, silence. A pure computation over the event times of
 * messages, as all that is remembered of a key.
 */
package org.holtra.core.lookout;
