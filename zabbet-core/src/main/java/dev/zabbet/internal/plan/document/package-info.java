/** Documents made from a JSON Schema, changed at places, and broken at one of them. */
@NullMarked
package dev.zabbet.internal.plan.document;

import org.jspecify.annotations.NullMarked;
