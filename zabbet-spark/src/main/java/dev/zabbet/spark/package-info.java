/**
 * Rows as a Spark data source, for more rows than one machine makes. Entry: the format {@code zabbet}, which {@link
 * dev.zabbet.spark.RowsSource} answers to. One rule: a row is what {@code zabbet add} of the same schema, counts and variation would store,
 * whatever the number of partitions and executors.
 */
@NullMarked
package dev.zabbet.spark;

import org.jspecify.annotations.NullMarked;
