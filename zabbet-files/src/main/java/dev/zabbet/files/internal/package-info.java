/** Row documents, CSV and Markdown as text: read, written, and rewritten in place. */
@NullMarked
package dev.zabbet.files.internal;

import org.jspecify.annotations.NullMarked;
