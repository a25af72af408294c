/** How Spark reads rows: what was asked for, ranges of rows, values in Spark's own forms. */
@NullMarked
package dev.zabbet.spark.internal;

import org.jspecify.annotations.NullMarked;
