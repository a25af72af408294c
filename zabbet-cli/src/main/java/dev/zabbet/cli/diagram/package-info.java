/** Pictures of a schema: where each table stands, which way each reference takes, and what is written of it as SVG, HTML or text. */
@NullMarked
package dev.zabbet.cli.diagram;

import org.jspecify.annotations.NullMarked;
