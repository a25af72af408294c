package dev.zabbet.extract;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.SeedRow;
import java.util.Optional;

/**
 * A row of an extract, masked.
 *
 * @param table its table
 * @param row its values with keys as they are in the database; columns that are left out or computed are not in it
 * @param seed the same row with labels in the place of keys; empty where the target has no use for them
 */
public record ExtractedRow(Table table, Row row, Optional<SeedRow> seed) {}
