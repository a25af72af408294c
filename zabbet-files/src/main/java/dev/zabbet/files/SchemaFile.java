package dev.zabbet.files;

import com.fasterxml.jackson.core.JsonProcessingException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.JsonTree;
import dev.zabbet.files.internal.TableJson;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * A schema as a JSON file, for use without the database it was read from. A schema that is written reads back equal.
 * Thread-safe.
 */
public final class SchemaFile {
    private static final int VERSION = 1;

    private SchemaFile() {}

    /**
     * Writes a schema; a file that is there is replaced as a whole.
     *
     * @param schema the schema
     * @param file the file
     * @throws ZabbetException if the file cannot be written; one that was there stays as it was
     */
    public static void write(Schema schema, Path file) {
        try {
            Path folder = file.toAbsolutePath().getParent();
            Path beside = Files.createTempFile(folder, "schema", ".json");
            Files.writeString(beside, toJson(schema));
            Files.move(beside, file, java.nio.file.StandardCopyOption.REPLACE_EXISTING);
        } catch (IOException e) {
            throw new ZabbetException("The schema cannot be written to " + file + ": " + e, e);
        }
    }

    /**
     * Reads a schema.
     *
     * @param file the file
     * @return the tables
     * @throws ZabbetException if the file cannot be read or is no schema; the message says where
     */
    public static Schema read(Path file) {
        try {
            return fromJson(Files.readString(file), file.toString());
        } catch (IOException e) {
            throw new ZabbetException("The schema cannot be read from " + file + ": " + e, e);
        }
    }

    /**
     * {@return the schema as JSON text}
     *
     * @param schema the schema
     */
    public static String toJson(Schema schema) {
        Map<String, Object> root = new LinkedHashMap<>();
        root.put("zabbetSchema", VERSION);
        if (!schema.enforcesTypes()) {
            root.put("enforcesTypes", false);
        }
        root.put("tables", schema.tables().stream().map(TableJson::write).toList());
        return JsonTree.write(root) + "\n";
    }

    /**
     * Reads a schema from JSON text.
     *
     * @param json the text that {@link #toJson} wrote
     * @param name what to call the text in a message
     * @return the tables
     * @throws ZabbetException if it is no schema
     */
    public static Schema fromJson(String json, String name) {
        try {
            if (!(JsonTree.read(json) instanceof Map<?, ?> root)
                    || !(root.get("zabbetSchema") instanceof Number version)
                    || version.intValue() != VERSION) {
                throw new ZabbetException(name + " is no schema file: it has no \"zabbetSchema\": " + VERSION + ".");
            }
            List<Table> tables = new ArrayList<>();
            if (root.get("tables") instanceof List<?> all) {
                all.forEach(table -> tables.add(TableJson.read(table, name)));
            }
            return new Schema(tables, !Boolean.FALSE.equals(root.get("enforcesTypes")));
        } catch (JsonProcessingException e) {
            throw new ZabbetException(
                    name + ", line " + e.getLocation().getLineNr() + ", column "
                            + e.getLocation().getColumnNr() + ": " + e.getOriginalMessage() + ".",
                    e);
        } catch (IOException e) {
            throw new ZabbetException(name + " cannot be read: " + e.getMessage(), e);
        }
    }
}
