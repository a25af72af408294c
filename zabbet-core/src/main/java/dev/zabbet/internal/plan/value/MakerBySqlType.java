package dev.zabbet.internal.plan.value;

import dev.zabbet.value.Values;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * Makes values of types that are no {@link dev.zabbet.type.Kind} of their own, in the text that the database's input of
 * the type takes. Found by the type's name, without what stands in parentheses.
 */
final class MakerBySqlType {
    private static final Pattern SIZE = Pattern.compile("\\(([^)]*)\\)");
    private static final Pattern LABEL = Pattern.compile("'((?:[^']|'')*)'");

    private static final Map<String, Maker.How> TEXTS = Map.ofEntries(
            Map.entry("inet", (v, n) -> "10." + byteOf(n, v, 2) + "." + byteOf(n, v, 1) + "." + byteOf(n, v, 0)),
            Map.entry(
                    "cidr", (v, n) -> "10." + byteOf(n, v, 2) + "." + byteOf(n, v, 1) + "." + byteOf(n, v, 0) + "/32"),
            Map.entry("inet4", (v, n) -> "10." + byteOf(n, v, 2) + "." + byteOf(n, v, 1) + "." + byteOf(n, v, 0)),
            Map.entry("inet6", (v, n) -> "fd00::" + hex(number(n, v, 0xFFFF), 4)),
            Map.entry("macaddr", (v, n) -> "02:00:00:" + pairs(number(n, v, 0xFFFFFF), 3)),
            Map.entry("macaddr8", (v, n) -> "02:00:00:00:00:" + pairs(number(n, v, 0xFFFFFF), 3)),
            Map.entry("money", (v, n) -> String.valueOf(number(n, v, 99) + 1)),
            Map.entry("xml", (v, n) -> "<row>" + v.ordinal() + "</row>"),
            Map.entry("tsvector", (v, n) -> v.word() + " w" + v.ordinal()),
            Map.entry("tsquery", (v, n) -> "w" + v.ordinal()),
            Map.entry("jsonpath", (v, n) -> "$.w" + v.ordinal()),
            Map.entry("oid", (v, n) -> String.valueOf(number(n, v, 999) + 20_000)),
            Map.entry("regclass", (v, n) -> "pg_class"),
            Map.entry("regtype", (v, n) -> "integer"),
            Map.entry("pg_lsn", (v, n) -> "0/" + hex(number(n, v, 0xFFFFFF) + 1, 1)),
            Map.entry("\"char\"", (v, n) -> String.valueOf((char) ('a' + number(n, v, 25) % 26))),
            Map.entry("time with time zone", (v, n) -> time(number(n, v, 86_399)) + "+00"),
            Map.entry("point", (v, n) -> "(" + number(n, v, 99) + ",46)"),
            Map.entry("line", (v, n) -> "{1,-1," + number(n, v, 99) + "}"),
            Map.entry("lseg", (v, n) -> "[(0,0),(1," + number(n, v, 99) + ")]"),
            Map.entry("box", (v, n) -> "(1,1),(0," + -number(n, v, 99) + ")"),
            Map.entry("path", (v, n) -> "((0,0),(1,1),(1," + number(n, v, 99) + "))"),
            Map.entry("polygon", (v, n) -> "((0,0),(1,1),(1," + number(n, v, 99) + "))"),
            Map.entry("circle", (v, n) -> "<(0,0)," + (number(n, v, 99) + 1) + ">"),
            Map.entry("int4range", (v, n) -> range(n, v)),
            Map.entry("int8range", (v, n) -> range(n, v)),
            Map.entry("numrange", (v, n) -> range(n, v)),
            Map.entry("daterange", MakerBySqlType::days),
            Map.entry("tsrange", MakerBySqlType::hours),
            Map.entry("tstzrange", MakerBySqlType::hours),
            Map.entry("int4multirange", (v, n) -> "{" + range(n, v) + "}"),
            Map.entry("int8multirange", (v, n) -> "{" + range(n, v) + "}"),
            Map.entry("nummultirange", (v, n) -> "{" + range(n, v) + "}"),
            Map.entry("datemultirange", (v, n) -> "{" + days(v, n) + "}"),
            Map.entry("tsmultirange", (v, n) -> "{" + hours(v, n) + "}"),
            Map.entry("tstzmultirange", (v, n) -> "{" + hours(v, n) + "}"),
            Map.entry("hstore", (v, n) -> "\"" + v.word() + "\"=>\"" + v.ordinal() + "\""),
            Map.entry("ltree", (v, n) -> "w" + v.ordinal() + "." + v.word()),
            Map.entry("xid", (v, n) -> String.valueOf(number(n, v, 999) + 1)),
            Map.entry("xid8", (v, n) -> String.valueOf(number(n, v, 999) + 1)),
            Map.entry("tid", (v, n) -> "(0," + (number(n, v, 99) + 1) + ")"),
            Map.entry("uniqueidentifier", (v, n) -> v.uuid().toString()),
            Map.entry("linestring", (v, n) -> "(0 0, 1 " + number(n, v, 99) + ")"),
            Map.entry("multipoint", (v, n) -> "(0 " + number(n, v, 99) + ")"),
            Map.entry("multilinestring", (v, n) -> "(0 0, 1 " + number(n, v, 99) + ")"),
            Map.entry("multipolygon", (v, n) -> "(0 0, 1 1, 1 " + number(n, v, 99) + ")"),
            Map.entry("geometrycollection", (v, n) -> "(0 " + number(n, v, 99) + ")"),
            Map.entry("cube", (v, n) -> "(" + number(n, v, 99) + "),(100000)"),
            Map.entry("seg", (v, n) -> String.valueOf(number(n, v, 99))),
            Map.entry("lquery", (v, n) -> "w" + v.ordinal() + ".*"),
            Map.entry("ltxtquery", (v, n) -> "w" + v.ordinal()),
            Map.entry("query_int", (v, n) -> String.valueOf(number(n, v, 99) + 1)));

    private MakerBySqlType() {}

    /** Returns what makes values of a type, if anything is known about it. */
    static Optional<Maker> of(String sqlName) {
        if (sqlName.isBlank()) { // a column without a type, which SQLite allows
            return Optional.of(new Maker((v, n) -> n >= 0 ? v.word() + (n + 1) : v.word(), Maker.ENDLESS));
        }
        Matcher parentheses = SIZE.matcher(sqlName);
        @Nullable String size = parentheses.find() ? parentheses.group(1) : null;
        String name = SIZE.matcher(sqlName)
                .replaceAll("")
                .strip()
                .replaceAll("\\s+", " ")
                .toLowerCase(Locale.ROOT);
        String bare = name.substring(name.lastIndexOf('.') + 1);
        if (name.equals("set") && size != null) {
            return Optional.of(setOf(size));
        }
        if (bare.equals("bit") || bare.equals("bit varying") || bare.equals("varbit")) {
            int unsized = bare.equals("bit") ? 1 : 8;
            return Optional.of(bits(size == null ? unsized : Integer.parseInt(size.strip())));
        }
        if (bare.equals("geometry") || bare.equals("geography")) {
            return Optional.of(geometry(size == null ? "" : size));
        }
        if (bare.equals("vector") || bare.equals("halfvec")) {
            return Optional.of(vector(size == null ? 3 : Integer.parseInt(size.strip())));
        }
        if (name.startsWith("interval")) {
            return Optional.of(new Maker(MakerBySqlType::interval, Maker.ENDLESS));
        }
        Maker.How how = TEXTS.get(bare);
        return Optional.ofNullable(how).map(h -> new Maker(h, bare.equals("\"char\"") ? 26 : Maker.ENDLESS));
    }

    private static Maker setOf(String labels) {
        List<String> all = new ArrayList<>();
        Matcher label = LABEL.matcher(labels);
        while (label.find()) {
            all.add(label.group(1).replace("''", "'"));
        }
        long size = 1L << Math.min(all.size(), 30);
        return new Maker(
                (v, n) -> {
                    long chosen = n >= 0 ? n : 1L << v.between(0, all.size() - 1);
                    List<String> names = new ArrayList<>();
                    for (int i = 0; i < all.size(); i++) {
                        if ((chosen >> i & 1) == 1) {
                            names.add(all.get(i));
                        }
                    }
                    return String.join(",", names);
                },
                size);
    }

    /** Of the shape and in the reference system that the type names, {@code Point,4326}. */
    private static Maker geometry(String shapeAndSystem) {
        String[] parts = shapeAndSystem.split(",");
        String shape = parts[0].strip().toLowerCase(Locale.ROOT);
        String system = parts.length > 1 ? "SRID=" + parts[1].strip() + ";" : "";
        return new Maker(
                (v, n) -> {
                    long at = number(n, v, 99);
                    String corner = at % 90 + "." + at / 90 + " 46"; // degrees, should the system count in them
                    return system
                            + switch (shape) {
                                case "linestring" -> "LINESTRING (0 0, " + corner + ")";
                                case "polygon" -> "POLYGON ((0 0, 1 1, " + corner + ", 0 0))";
                                case "multipoint" -> "MULTIPOINT (" + corner + ")";
                                case "multilinestring" -> "MULTILINESTRING ((0 0, " + corner + "))";
                                case "multipolygon" -> "MULTIPOLYGON (((0 0, 1 1, " + corner + ", 0 0)))";
                                case "geometrycollection" -> "GEOMETRYCOLLECTION (POINT (" + corner + "))";
                                default -> "POINT (" + corner + ")";
                            };
                },
                Maker.ENDLESS);
    }

    private static Maker vector(int dimensions) {
        return new Maker(
                (v, n) -> "[" + number(n, v, 99) + ",1".repeat(Math.max(0, dimensions - 1)) + "]", Maker.ENDLESS);
    }

    private static Maker bits(int length) {
        return new Maker(
                (v, n) -> {
                    long value = n >= 0 ? n : v.between(0, (1L << Math.min(length, 30)) - 1);
                    String digits = Long.toBinaryString(value);
                    return digits.length() >= length ? digits : "0".repeat(length - digits.length()) + digits;
                },
                1L << Math.min(length, 62));
    }

    private static String interval(Values v, long n) {
        return n >= 0 ? n + " seconds" : v.between(1, 30) + " days";
    }

    private static long number(long n, Values v, int most) {
        return n >= 0 ? n : v.between(0, most);
    }

    private static long byteOf(long n, Values v, int at) {
        return n >= 0 ? n >> (8 * at) & 0xFF : v.between(0, 255);
    }

    private static String hex(long n, int digits) {
        String hex = Long.toHexString(n);
        return hex.length() >= digits ? hex : "0".repeat(digits - hex.length()) + hex;
    }

    private static String pairs(long n, int bytes) {
        StringBuilder pairs = new StringBuilder();
        for (int i = bytes - 1; i >= 0; i--) {
            pairs.append(hex(n >> (8 * i) & 0xFF, 2)).append(i > 0 ? ":" : "");
        }
        return pairs.toString();
    }

    private static String time(long second) {
        return java.time.LocalTime.ofSecondOfDay(second % 86_400)
                .format(java.time.format.DateTimeFormatter.ISO_LOCAL_TIME);
    }

    private static String range(long n, Values v) {
        long from = number(n, v, 999) * 10;
        return "[" + from + "," + (from + 9) + ")";
    }

    /** Ranges of different rows do not overlap, which exclusion constraints ask for. */
    private static String days(Values v, long n) {
        long from = n >= 0 ? n * 3 : v.between(0, 999);
        return "[" + v.today().plusDays(from) + "," + v.today().plusDays(from + 2) + ")";
    }

    private static String hours(Values v, long n) {
        java.time.LocalDateTime day = v.today().atStartOfDay().plusHours(n >= 0 ? n * 3 : v.between(0, 9999));
        return "[" + day.toString().replace('T', ' ') + ","
                + day.plusHours(2).toString().replace('T', ' ') + ")";
    }
}
