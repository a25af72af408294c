package dev.zabbet.jdbc.internal.mariadb;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Writes shapes as MariaDB keeps them: a reference system's number (0), then well-known binary (OGC Simple Features, part
 * 1). Read from any text with pairs of numbers.
 */
final class MariaDbGeometry {
    private static final Pattern NUMBER = Pattern.compile("-?\\d+(?:\\.\\d+)?");
    private static final List<String> TYPES = List.of(
            "geometry",
            "point",
            "linestring",
            "polygon",
            "multipoint",
            "multilinestring",
            "multipolygon",
            "geometrycollection");

    private final ByteBuffer out = ByteBuffer.allocate(10_000).order(ByteOrder.LITTLE_ENDIAN);
    private final List<double[]> points;

    private MariaDbGeometry(List<double[]> points) {
        this.points = points;
    }

    static boolean isShape(String type) {
        return TYPES.contains(type);
    }

    static byte[] of(String type, String text) {
        List<double[]> points = new ArrayList<>();
        Matcher number = NUMBER.matcher(text);
        while (number.find()) {
            double x = Double.parseDouble(number.group());
            double y = number.find() ? Double.parseDouble(number.group()) : 0;
            points.add(new double[] {x, y});
        }
        MariaDbGeometry shape = new MariaDbGeometry(points);
        shape.out.putInt(0);
        shape.write(type.equals("geometry") ? "point" : type);
        byte[] bytes = new byte[shape.out.position()];
        shape.out.flip().get(bytes);
        return bytes;
    }

    private void write(String type) {
        out.put((byte) 1).putInt(TYPES.indexOf(type));
        switch (type) {
            case "point" -> put(points.get(0));
            case "linestring" -> {
                out.putInt(points.size());
                points.forEach(this::put);
            }
            case "polygon" -> {
                out.putInt(1).putInt(points.size() + 1);
                points.forEach(this::put);
                put(points.get(0));
            }
            default -> {
                out.putInt(1);
                write(type.equals("geometrycollection") ? "point" : type.substring("multi".length()));
            }
        }
    }

    private void put(double[] point) {
        out.putDouble(point[0]).putDouble(point[1]);
    }
}
