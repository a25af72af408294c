package dev.zabbet.spark.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.SchemaFile;
import dev.zabbet.schema.Schema;
import java.io.IOException;
import java.io.Serializable;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import org.apache.spark.sql.util.CaseInsensitiveStringMap;

/**
 * What a query asks for: executors make the same rows of it.
 *
 * @param schema the schema, as JSON
 * @param rows how many rows of which tables, one after another
 * @param table whose rows are read
 * @param defaults a row document whose defaults the rows have; empty without one
 * @param partitionBytes about how many bytes of values a partition has; 0 if nothing was said
 * @param partitions how many partitions there are; 0 if their size decides
 */
public record Asked(
        String schema,
        List<Count> rows,
        String table,
        long variation,
        boolean filled,
        String defaults,
        long partitionBytes,
        int partitions)
        implements Serializable {
    private static final Set<String> OPTIONS =
            Set.of("schema", "rows", "table", "variation", "filled", "defaults", "partitionbytes", "partitions");
    /** What Spark adds to the options of a table that its catalog keeps. */
    private static final Set<String> SPARKS = Set.of(
            "path",
            "serialization.format",
            "comment",
            "location",
            "provider",
            "owner",
            "external",
            "is_managed_location",
            "collation");

    /** How many rows of a table. */
    public record Count(String table, int rows) implements Serializable {}

    /**
     * Reads options.
     *
     * @throws ZabbetException if one is missing, unknown or wrong
     */
    public static Asked of(CaseInsensitiveStringMap options) {
        Set<String> unknown = new TreeSet<>(options.keySet());
        unknown.removeAll(OPTIONS);
        unknown.removeIf(name -> SPARKS.contains(name) || name.startsWith("option."));
        if (!unknown.isEmpty()) {
            throw new ZabbetException("The data source zabbet knows no option " + String.join(", ", unknown)
                    + ". It has schema, rows, table, variation, filled, defaults, partitionBytes, partitions.");
        }
        String schema = required(options, "schema", "the file that zabbet schema --out huts.json wrote, or its text");
        return new Asked(
                text(schema, "{"),
                counts(required(options, "rows", "how many rows of which tables, such as hut=100 stay=1e6")),
                required(options, "table", "whose rows are read"),
                whole(options, "variation", 0, Long.MIN_VALUE),
                flag(options),
                text(options.getOrDefault("defaults", "{}").strip(), "{", "defaults:"),
                whole(options, "partitionBytes", 0, 1),
                (int) Math.min(whole(options, "partitions", 0, 0), Integer.MAX_VALUE));
    }

    private static String required(CaseInsensitiveStringMap options, String name, String what) {
        String value = options.get(name);
        if (value == null || value.isBlank()) {
            throw new ZabbetException("The data source zabbet needs the option " + name + ": " + what + ".");
        }
        return value.strip();
    }

    /** Returns a text that is given itself, as its beginning tells, or stands in a file. */
    private static String text(String given, String... beginnings) {
        for (String beginning : beginnings) {
            if (given.startsWith(beginning)) {
                return given;
            }
        }
        try {
            return Files.readString(Path.of(given));
        } catch (IOException e) {
            throw new ZabbetException("The file " + given + " cannot be read: " + e + ".", e);
        }
    }

    private static List<Count> counts(String text) {
        List<Count> counts = new ArrayList<>();
        for (String one : text.split("[\\s,]+")) {
            int equals = one.lastIndexOf('=');
            String table = equals < 1 ? "" : one.substring(0, equals);
            int rows = rows(one, one.substring(equals + 1));
            if (table.isEmpty() || rows < 1) {
                throw wrong(one);
            }
            if (counts.stream().anyMatch(count -> count.table().equals(table))) {
                throw new ZabbetException("The option rows names table " + table + " twice.");
            }
            counts.add(new Count(table, rows));
        }
        return List.copyOf(counts);
    }

    private static int rows(String one, String number) {
        try {
            return number.length() > 20 ? 0 : new BigDecimal(number).intValueExact();
        } catch (ArithmeticException | NumberFormatException e) {
            throw wrong(one);
        }
    }

    private static ZabbetException wrong(String one) {
        return new ZabbetException("The option rows says TABLE=N, such as stay=1e6; '" + one
                + "' is not. N is a whole number from 1 to 2147483647.");
    }

    private static long whole(CaseInsensitiveStringMap options, String name, long usual, long least) {
        String value = options.get(name);
        if (value == null) {
            return usual;
        }
        try {
            long number = Long.parseLong(value.strip());
            if (number >= least) {
                return number;
            }
        } catch (NumberFormatException e) {
            // told below
        }
        throw new ZabbetException("The option " + name + " is a whole number"
                + (least == Long.MIN_VALUE ? "" : ", at least " + least) + "; it was '" + value + "'.");
    }

    private static boolean flag(CaseInsensitiveStringMap options) {
        String value = options.getOrDefault("filled", "false");
        if (!value.equals("true") && !value.equals("false")) {
            throw new ZabbetException("The option filled is true or false; it was '" + value + "'.");
        }
        return value.equals("true");
    }

    Schema tables() {
        return SchemaFile.fromJson(schema, "the option schema");
    }
}
