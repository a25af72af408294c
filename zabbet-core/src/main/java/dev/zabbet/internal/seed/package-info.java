/** Seeds worked out: keys in the place of labels, rows tried before they are stored. */
@NullMarked
package dev.zabbet.internal.seed;

import org.jspecify.annotations.NullMarked;
