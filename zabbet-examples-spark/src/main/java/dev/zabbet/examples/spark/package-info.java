/** The alpine huts with more stays than a test needs: Spark makes them. */
@NullMarked
package dev.zabbet.examples.spark;

import org.jspecify.annotations.NullMarked;
