package dev.zabbet.jdbc;

import java.math.BigInteger;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.IntFunction;

/**
 * Tables with sixty columns of personal values, many of them under names that say nothing or in other languages, and with sixty
 * that only look so. All people and numbers are invented.
 */
final class PlantedPersons {
    static final int ROWS = 30;
    private static final String[] GIVEN = {
        "Anna", "Peter", "Maria", "Thomas", "Laura", "Marco", "Julia", "Stefan", "Nina", "Luca", "Sofia", "Daniel"
    };
    private static final String[] FAMILY = {
        "Muster", "Beispiel", "Meier", "Huber", "Rossi", "Favre", "Keller", "Brunner"
    };
    private static final String[] WORDS = {
        "called", "about", "the", "invoice", "wants", "quiet", "room", "asked", "twice", "late", "arrival", "allergic"
    };
    private static final String[] PRODUCTS = {
        "Steel bottle", "Wool blanket", "Oak ladder", "Rope bag", "Tin lamp", "Felt hat"
    };

    /** A column: how it is called, of which type, and its values. */
    private record C(String name, String type, IntFunction<Object> value) {}

    private final Map<String, List<C>> tables = new LinkedHashMap<>();
    private final Set<String> personal = new LinkedHashSet<>();
    private final Set<String> harmless = new LinkedHashSet<>();
    private final String json;
    private final String blob;

    PlantedPersons(Engine engine) {
        json = switch (engine) {
            case POSTGRES -> "jsonb";
            case SQLITE -> "JSON";
            default -> "JSON";
        };
        blob = engine == Engine.POSTGRES ? "bytea" : "BLOB";
        persons();
        things();
    }

    Set<String> personal() {
        return personal;
    }

    Set<String> harmless() {
        return harmless;
    }

    private void persons() {
        table(
                "kunde",
                personal, // German
                new C("vorname", "VARCHAR(40)", i -> GIVEN[i % 12]),
                new C("nachname", "VARCHAR(40)", i -> family(i)),
                new C("geb_datum", "DATE", i -> day(1940 + i, i)),
                new C("strasse", "VARCHAR(60)", i -> "Dorfstrasse " + (100 + i)),
                new C("plz", "VARCHAR(10)", i -> 8000 + i * 7),
                new C("ort", "VARCHAR(40)", i -> "Musterwil " + family(i)),
                new C("telefon", "VARCHAR(30)", i -> "044 555 " + (10 + i) + " " + (40 + i)),
                new C("handy_nr", "VARCHAR(30)", i -> "+41 79 555 " + (10 + i) + " " + (61 + i)),
                new C("mail", "VARCHAR(60)", i -> email(i)),
                new C("ahv_nr", "VARCHAR(20)", i -> "756." + (1000 + i) + "." + (5000 + i) + ".11"),
                new C("konto", "VARCHAR(40)", PlantedPersons::iban),
                new C("bemerkung", "VARCHAR(200)", PlantedPersons::sentence));
        table(
                "usr",
                personal, // what programmers call things
                new C("login", "VARCHAR(30)", i -> "user" + GIVEN[i % 12].toLowerCase() + i),
                new C("pw", "VARCHAR(80)", i -> "$2a$10$" + ("Q9kV" + (1000 + i) + "xT7bLm2WzR4pN8yU").repeat(2)),
                new C("apiKey", "VARCHAR(60)", i -> "k7Q" + (1000 + i) + "Zp4Wm9T" + i + "bV2"),
                new C("last_ip", "VARCHAR(20)", i -> "203.0.113." + (100 + i)),
                new C("sess", "VARCHAR(60)", i -> token(i)),
                new C("dob", "VARCHAR(10)", i -> String.format("%02d.%02d.%d", 1 + i % 28, 1 + i % 12, 1950 + i)),
                new C("avatar", blob, i -> "picture of " + i),
                new C("homeLat", "DECIMAL(9, 6)", i -> "47." + (123456 + i * 1111)),
                new C("homeLng", "DECIMAL(9, 6)", i -> "8." + (223456 + i * 1111)),
                new C("gehalt", "INT", i -> 61_234 + i * 517),
                new C("real_nm", "VARCHAR(60)", i -> GIVEN[i % 12] + " " + family(i)),
                new C("second_phone", "VARCHAR(30)", i -> "0041795551" + (100 + i)));
        table(
                "x1",
                personal, // names that say nothing
                new C("c1", "VARCHAR(60)", i -> "post" + i + "@firma-beispiel.example"),
                new C("c2", "VARCHAR(30)", i -> "+49 170 5550" + (100 + i)),
                new C("c3", "VARCHAR(40)", i -> iban(i + 500)),
                new C("c4", "VARCHAR(30)", PlantedPersons::card),
                new C("c5", "VARCHAR(60)", i -> GIVEN[(i + 3) % 12] + " von " + family(i + 2)),
                new C("c6", "DATE", i -> day(1951 + i, i + 3)),
                new C("c7", "VARCHAR(20)", i -> "198.51.100." + (100 + i)),
                new C("c8", "VARCHAR(20)", i -> String.format("02:00:5e:10:%02x:%02x", i, 200 - i)),
                new C("c9", "VARCHAR(200)", i -> "please write to box" + i + "@example.net about this matter soon"),
                new C("c11", "VARCHAR(60)", i -> token(i + 90)),
                new C("c12", "VARCHAR(200)", i -> sentence(i + 7)),
                new C("c13", "VARCHAR(30)", i -> "(555) 014-" + (1000 + i)));
        table(
                "cliente",
                personal, // Spanish, French, Italian
                new C("nombre", "VARCHAR(40)", i -> "Zuleica" + i),
                new C("apellidos", "VARCHAR(60)", i -> "Quintanar" + i),
                new C("correo", "VARCHAR(60)", i -> "cliente" + i + "@correo.example"),
                new C("telefono", "VARCHAR(30)", i -> "91 555 0" + (100 + i)),
                new C("direccion", "VARCHAR(60)", i -> "Calle Inventada " + (200 + i)),
                new C("fecha_nacimiento", "DATE", i -> day(1935 + i, i + 1)),
                new C("dni", "VARCHAR(12)", i -> (10_000_000 + i * 7919) + "X"),
                new C("notas", "VARCHAR(200)", i -> "prefiere la mesa numero " + (100 + i)),
                new C("ciudad", "VARCHAR(40)", i -> "Villafingida" + i),
                new C("tarjeta", "BIGINT", i -> new BigInteger(card(i + 50).replace(" ", ""))),
                new C("contrasena", "VARCHAR(60)", i -> "secreto-" + (7000 + i)),
                new C("codice_fiscale", "VARCHAR(20)", i -> "RSSMRA80A01H" + (500 + i) + "U"));
        table(
                "audit",
                personal, // the same things under other names
                new C("actor", "VARCHAR(60)", i -> email(i)),
                new C("who", "VARCHAR(30)", i -> "user" + GIVEN[i % 12].toLowerCase() + i),
                new C("origin", "VARCHAR(60)", i -> "2001:db8:85a3::8a2e:" + (1000 + i)),
                new C(
                        "attachment_of",
                        json,
                        i -> "{\"contact\": {\"name\": \"Ottokar " + family(i) + i + "\", \"mail\": \"kontakt" + i
                                + "@json.example\"}, \"size\": " + i + "}"));
        personal.remove("audit.attachment_of");
        personal.add("audit.attachment_of.contact.name");
        personal.add("audit.attachment_of.contact.mail");
        table(
                "patient",
                personal,
                new C("insurance_number", "VARCHAR(20)", i -> "80756" + (100_000 + i)),
                new C("diagnosis", "VARCHAR(100)", i -> "sprained ankle number " + (300 + i)),
                new C("name_of_contact", "VARCHAR(60)", i -> "Waldemar Erfunden" + i),
                new C("passport_no", "VARCHAR(20)", i -> "X" + (4_000_000 + i)),
                new C("license_plate", "VARCHAR(20)", i -> "ZH " + (400_000 + i)),
                new C("location", "VARCHAR(40)", i -> "47.37" + (1000 + i) + ", 8.54" + (2000 + i)),
                new C("emergency_phone", "BIGINT", i -> 41_795_550_000L + i));
    }

    private void things() {
        table(
                "product",
                harmless,
                new C("name", "VARCHAR(40)", i -> PRODUCTS[i % 6] + " " + i),
                new C("title", "VARCHAR(60)", i -> PRODUCTS[i % 6] + " for the mountains"),
                new C(
                        "description",
                        "VARCHAR(200)",
                        i -> "A " + PRODUCTS[i % 6] + " that lasts for " + i + " years and more"),
                new C("isbn", "VARCHAR(20)", i -> "978-3-16-14841" + (i % 10) + "-" + (i % 9)),
                new C("ean", "BIGINT", i -> 7_612_345_000_000L + i),
                new C("version", "VARCHAR(20)", i -> "1." + i + ".3.4"),
                new C("order_no", "VARCHAR(20)", i -> "2031-000" + (100 + i)),
                new C("checksum", "VARCHAR(64)", i -> hex(i, 64)),
                new C("git_commit", "VARCHAR(40)", i -> hex(i + 9, 40)),
                new C("etag", "VARCHAR(40)", i -> hex(i + 77, 32)),
                new C("price", "DECIMAL(8, 2)", i -> "19." + (10 + i)),
                new C("city", "VARCHAR(40)", i -> "Depot " + i),
                new C("lat", "DECIMAL(9, 6)", i -> "46." + (123456 + i)),
                new C("lng", "DECIMAL(9, 6)", i -> "9." + (123456 + i)),
                new C("founded", "DATE", i -> day(1921 + i, i)),
                new C("released_on", "DATE", i -> day(1971 + i, i)),
                new C("colour", "VARCHAR(20)", i -> i % 2 == 0 ? "Rose" : "Amber"),
                new C("phone_model", "VARCHAR(30)", i -> "Model " + i),
                new C("card_type", "VARCHAR(20)", i -> i % 2 == 0 ? "DEBIT" : "CREDIT"),
                new C("street_count", "INT", i -> i));
        table(
                "setting",
                harmless,
                new C("email_verified", "BOOLEAN", i -> i % 2 == 0),
                new C("email_count", "INT", i -> i),
                new C("email_template", "VARCHAR(20)", i -> i % 2 == 0 ? "welcome" : "reminder"),
                new C("phone_prefix", "VARCHAR(5)", i -> "+4" + i % 9),
                new C("ip_version", "INT", i -> 4 + i % 2 * 2),
                new C("token_type", "VARCHAR(10)", i -> "bearer"),
                new C("password_changed_at", "TIMESTAMP", i -> day(2030, i) + " 08:00:00"),
                new C("mail_server", "VARCHAR(40)", i -> "server-" + i),
                new C("hash_algorithm", "VARCHAR(20)", i -> "sha256"),
                new C("login_count", "INT", i -> i * 3),
                new C("address_type", "VARCHAR(10)", i -> "HOME"),
                new C("birth_rate", "DECIMAL(5, 2)", i -> "1." + (10 + i)),
                new C("note_id", "INT", i -> i),
                new C("message_type", "VARCHAR(20)", i -> i % 3 == 0 ? "INFO" : "ALERT"),
                new C("comment_enabled", "BOOLEAN", i -> true),
                new C("locale", "VARCHAR(10)", i -> "de_CH"),
                new C("timezone", "VARCHAR(30)", i -> "Europe/Zurich"),
                new C("user_group_name", "VARCHAR(20)", i -> "group " + i),
                new C("name_required", "BOOLEAN", i -> false),
                new C("phone_id", "INT", i -> i));
        table(
                "hut_room",
                harmless,
                new C("name", "VARCHAR(40)", i -> "Edelgrat " + i),
                new C("code", "VARCHAR(20)", i -> "R-" + (100 + i)),
                new C("slug", "VARCHAR(40)", i -> "edelgrat-" + i),
                new C("homepage", "VARCHAR(60)", i -> "https://huts.example/" + i),
                new C("country", "VARCHAR(2)", i -> "CH"),
                new C("currency", "VARCHAR(3)", i -> "CHF"),
                new C("opened_on", "DATE", i -> day(1911 + i, i)),
                new C("created_at", "TIMESTAMP", i -> day(2029, i) + " 10:00:00"),
                new C("updated_at", "TIMESTAMP", i -> day(2030, i) + " 11:00:00"),
                new C("status", "VARCHAR(20)", i -> i % 2 == 0 ? "OPEN" : "CLOSED"),
                new C("height", "INT", i -> 1800 + i),
                new C("weight", "DECIMAL(6, 2)", i -> "70." + (10 + i)),
                new C("rating", "DECIMAL(3, 1)", i -> "4." + i % 10),
                new C("license", "VARCHAR(20)", i -> "MIT"),
                new C("mime_type", "VARCHAR(30)", i -> "image/png"),
                new C("file_name", "VARCHAR(40)", i -> "map-" + i + ".svg"),
                new C("external_id", "VARCHAR(40)", i -> String.format("00000000-0000-4000-8000-%012d", i)),
                new C("amenities", json, i -> "{\"wifi\": true, \"kind\": \"double\", \"beds\": " + i + "}"),
                new C("floor_plan", blob, i -> "plan " + i),
                new C("address_id", "BIGINT", i -> i));
        harmless.remove("hut_room.amenities");
        harmless.add("hut_room.amenities.kind");
    }

    private void table(String name, Set<String> kind, C... columns) {
        tables.put(name, List.of(columns));
        for (C column : columns) {
            kind.add(name + "." + column.name());
        }
    }

    String ddl() {
        StringBuilder ddl = new StringBuilder();
        tables.forEach((name, columns) -> {
            List<String> parts = new ArrayList<>(List.of("id ${id}"));
            columns.forEach(c -> parts.add(c.name() + " " + c.type()));
            ddl.append("CREATE TABLE ")
                    .append(name)
                    .append(" (")
                    .append(String.join(", ", parts))
                    .append(");\n");
        });
        return ddl.toString();
    }

    /** Statements that store the rows. */
    List<String> inserts(Engine engine) {
        List<String> inserts = new ArrayList<>();
        tables.forEach((name, columns) -> {
            for (int i = 0; i < ROWS; i++) {
                List<String> values = new ArrayList<>();
                for (C column : columns) {
                    Object value = column.value().apply(i);
                    String text = String.valueOf(value).replace("'", "''");
                    if (column.type().equals(blob)) {
                        String hex = java.util.HexFormat.of()
                                .formatHex(text.getBytes(java.nio.charset.StandardCharsets.UTF_8));
                        values.add(engine == Engine.POSTGRES ? "'\\x" + hex + "'" : "X'" + hex + "'");
                    } else if (column.type().equals("JSON") && engine == Engine.H2) {
                        values.add("JSON '" + text + "'");
                    } else {
                        values.add(value instanceof Boolean || value instanceof Number ? text : "'" + text + "'");
                    }
                }
                inserts.add("INSERT INTO " + name + " ("
                        + String.join(", ", columns.stream().map(C::name).toList()) + ") VALUES ("
                        + String.join(", ", values)
                        + ")");
            }
        });
        return inserts;
    }

    /** The values of personal columns that are long enough not to come about by chance. */
    Set<String> originals() {
        Set<String> originals = new LinkedHashSet<>();
        tables.forEach((name, columns) -> columns.forEach(column -> {
            for (int i = 0; personal.contains(name + "." + column.name()) && i < ROWS; i++) {
                String text = String.valueOf(column.value().apply(i));
                if (text.length() >= 7 && !column.type().equals(blob)) {
                    originals.add(text);
                }
            }
        }));
        for (int i = 0; i < ROWS; i++) {
            originals.add("kontakt" + i + "@json.example");
        }
        return originals;
    }

    private static String family(int i) {
        return FAMILY[i % 8];
    }

    private static String email(int i) {
        return GIVEN[i % 12].toLowerCase() + "." + family(i).toLowerCase() + i + "@post.example";
    }

    private static String day(int year, int i) {
        return String.format("%d-%02d-%02d", year, 1 + i % 12, 1 + i % 28);
    }

    private static String sentence(int i) {
        return GIVEN[i % 12] + " " + WORDS[i % 12] + " " + WORDS[(i + 3) % 12] + " " + WORDS[(i + 5) % 12] + " "
                + WORDS[(i + 8) % 12] + " number " + i;
    }

    private static String iban(int i) {
        String account = "00762" + String.format("%012d", 11_623_852_957L + i);
        String digits = account + "121700"; // CH00
        int check = 98 - new BigInteger(digits).mod(BigInteger.valueOf(97)).intValue();
        return "CH" + String.format("%02d", check) + account;
    }

    private static String card(int i) {
        String start = "400012345678" + String.format("%03d", i);
        for (int check = 0; ; check++) {
            String whole = start + check;
            int sum = 0;
            for (int at = 0; at < 16; at++) {
                int digit = whole.charAt(15 - at) - '0';
                sum += at % 2 == 0 ? digit : digit * 2 / 10 + digit * 2 % 10;
            }
            if (sum % 10 == 0) {
                return whole.replaceAll("(.{4})(?=.)", "$1 ");
            }
        }
    }

    private static String hex(int i, int length) {
        StringBuilder hex = new StringBuilder();
        for (long state = i + 1; hex.length() < length; state = state * 6364136223846793005L + 1442695040888963407L) {
            hex.append(String.format("%08x", state >>> 32));
        }
        return hex.substring(0, length);
    }

    private static String token(int i) {
        return java.util.Base64.getUrlEncoder()
                .withoutPadding()
                .encodeToString(new BigInteger(hex(i + 300, 48), 16).toByteArray());
    }
}
