package dev.zabbet.cli;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertTrue;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.stream.Stream;
import javax.xml.parsers.DocumentBuilderFactory;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Databases with names that nobody would choose, with triggers and with secrets, as the command shows them. */
class StrangeDatabasesTest {
    @TempDir
    private Path folder = Path.of("unset");

    private String url = "";

    private void database(String ddl) throws Exception {
        url = "jdbc:sqlite:" + folder.resolve("huts.db");
        Commands.execute(url, ddl);
        assertEquals(0, Commands.zabbet(url, "dedicate").status());
    }

    @AfterEach
    void nothingStaysInTheEnvironment() {
        Commands.ENVIRONMENT.clear();
    }

    @Test
    void namesThatSteerATerminalOrBreakXmlDoNeither() throws Exception {
        String evil = "hut \u001b[31m\u0007<b>&\u202e\uFFFF";
        database("CREATE TABLE \"" + evil + "\" (id INTEGER PRIMARY KEY, \"na\rme\" TEXT NOT NULL);"
                + "CREATE TABLE stay (id INTEGER PRIMARY KEY, hut_id INTEGER NOT NULL REFERENCES \"" + evil + "\")");
        Commands.Outcome shown = Commands.zabbet(url, "schema");
        assertEquals(0, shown.status(), shown.err());
        assertTrue(shown.out().startsWith("2 tables, 1 reference, 0 cycles\n"), shown.out());
        assertTrue(shown.out().chars().allMatch(c -> c == '\n' || (c >= ' ' && c != 0x7F && c != 0x202E)), shown.out());
        Commands.Outcome added = Commands.zabbet(url, "add", "stay=3");
        assertEquals(0, added.status(), added.err());
        assertFalse(added.out().contains("\u001b"), added.out());
        for (String kind : new String[] {"svg", "mmd"}) {
            Path file = folder.resolve("schema." + kind);
            Commands.Outcome written = Commands.zabbet(url, "schema", "--out", file.toString());
            assertEquals(0, written.status(), written.err());
            if (kind.equals("svg")) {
                var drawn = DocumentBuilderFactory.newInstance()
                        .newDocumentBuilder()
                        .parse(file.toFile());
                assertTrue(drawn.getDocumentElement().getTextContent().contains("<b>&"), "names are told whole");
            }
            assertFalse(Files.readString(file).contains("\u001b"));
        }
    }

    /** ECMA-48's "concealed characters" would hide what follows; the command itself never uses it. */
    @Test
    void inColoursNamesDoNotColourThemselves() throws Exception {
        String evil = "hid\u001b[8mden";
        database("CREATE TABLE \"" + evil + "\" (id INTEGER PRIMARY KEY, number INTEGER NOT NULL, kind TEXT NOT NULL"
                + " CHECK (kind <> '" + evil + "'), UNIQUE (number, kind));"
                + "CREATE TABLE stay (id INTEGER PRIMARY KEY, \"" + evil
                + "\" INTEGER NOT NULL, kind TEXT NOT NULL, FOREIGN"
                + " KEY (\"" + evil + "\", kind) REFERENCES \"" + evil + "\" (number, kind))");
        trigger("CREATE TRIGGER \"" + evil + "\" AFTER DELETE ON stay BEGIN DELETE FROM stay WHERE id = OLD.id; END");
        Path document = Files.writeString(
                folder.resolve("expected.yaml"), "expect: {\"hid\\e[8mden\": {holds: [{kind: none}]}}");
        Commands.ENVIRONMENT.put("CLICOLOR_FORCE", "1");
        for (String[] command : new String[][] {
            {"schema"},
            {"add", "stay=2"},
            {"verify", document.toString()},
            Stream.concat(
                            Stream.of("run", "--"),
                            DocumentsTest.client("SQLITE", url, folder, "DELETE FROM stay").stream())
                    .toArray(String[]::new),
            {"load", "--dry-run", document.toString()},
            {"clear"}
        }) {
            Commands.Outcome printed = Commands.zabbet(url, command);
            String all = printed.out() + printed.err();
            assertFalse(all.contains("\u001b[8m"), () -> command[0] + ": " + all);
            if (command[0].equals("schema")) {
                assertTrue(all.contains("\u001b[1;36m"), "it is in colours");
                assertTrue(all.contains("trigger hid\\u001b[8mden"), all);
            }
            if (command[0].equals("verify")) {
                assertEquals(1, printed.status(), all);
                assertTrue(all.contains("hid\\u001b[8mden"), all);
            }
        }
    }

    private void trigger(String sql) throws Exception {
        try (var connection = java.sql.DriverManager.getConnection(url);
                var statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    @Test
    void triggersAreNamedBesideTheirTables() throws Exception {
        database("CREATE TABLE stay (id INTEGER PRIMARY KEY, nights INTEGER NOT NULL);"
                + "CREATE TABLE diary (id INTEGER PRIMARY KEY, stay_id INTEGER NOT NULL)");
        trigger(
                "CREATE TRIGGER stay_written AFTER INSERT ON stay BEGIN INSERT INTO diary (stay_id) VALUES (NEW.id); END");
        String shown = Commands.zabbet(url, "schema").out();
        assertTrue(shown.contains("  trigger stay_written\n"), shown);
    }

    @Test
    void aTruthValueWithAQuotedDefaultIsFilled() throws Exception {
        database("CREATE TABLE hut (id INTEGER PRIMARY KEY, name TEXT NOT NULL, open boolean NOT NULL DEFAULT '0',"
                + " heated boolean NOT NULL DEFAULT '1')");
        Path document = Files.writeString(folder.resolve("hut.yaml"), """
                tables: {hut: {edelgrat: {name: Edelgrat, heated: false}}}
                expect: {hut: {holdsOnly: [{name: Edelgrat, open: false, heated: false}]}}
                """);
        assertEquals("", Commands.zabbet(url, "validate", document.toString()).err());
        assertEquals("", Commands.zabbet(url, "load", document.toString()).err());
        assertEquals(
                "The expectation holds\n",
                Commands.zabbet(url, "verify", document.toString()).out());
    }

    @Test
    void theProgramThatIsRunIsNotToldThePassword() throws Exception {
        database("CREATE TABLE hut (id INTEGER PRIMARY KEY)");
        Commands.ENVIRONMENT.put("ZABBET_PASSWORD", "geheim");
        Path told = folder.resolve("told");
        String program = "echo \"[$ZABBET_DB] [$ZABBET_PASSWORD]\" > " + told;
        assertEquals(0, Commands.zabbet(url, "run", "--", "sh", "-c", program).status());
        assertEquals("[" + url + "] []\n", Files.readString(told));
        assertEquals(
                0,
                Commands.zabbet(url, "run", "--with-password", "--", "sh", "-c", program)
                        .status());
        assertEquals("[" + url + "] [geheim]\n", Files.readString(told));
    }

    @Test
    void helpOfACommandIsAskedForEitherWay() throws Exception {
        String help = Commands.zabbet("", "load", "--help").out();
        assertTrue(help.contains("zabbet load"), help);
        assertEquals(help, Commands.zabbet("", "help", "load").out());
        Commands.Outcome unknown = Commands.zabbet("", "help", "laod");
        assertEquals(2, unknown.status());
        assertTrue(unknown.err().contains("load"), unknown.err());
    }
}
