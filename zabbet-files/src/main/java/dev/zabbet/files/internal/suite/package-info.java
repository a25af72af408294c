/**
 * What is known of a suite of tests: kept in files that all processes of a run write together, and shown as a page, as a few lines
 * and as Markdown. {@link dev.zabbet.files.internal.suite.SuiteFolder} is where to begin.
 *
 * <p>A run is kept as JSON of the form that {@code docs/suite.schema.json} describes.
 */
@NullMarked
package dev.zabbet.files.internal.suite;

import org.jspecify.annotations.NullMarked;
