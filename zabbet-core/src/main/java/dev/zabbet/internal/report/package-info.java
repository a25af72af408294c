/** How expected rows are paired with stored ones, and the text of what differs. */
@NullMarked
package dev.zabbet.internal.report;

import org.jspecify.annotations.NullMarked;
