package dev.zabbet.spark.internal;

import org.apache.spark.sql.connector.read.InputPartition;

/**
 * The rows of one partition.
 *
 * @param first the first row, from 0
 * @param end the row behind the last
 */
record RowRange(int first, int end) implements InputPartition {}
