package dev.zabbet.cli;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import java.io.BufferedWriter;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.Random;
import java.util.concurrent.TimeUnit;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Large files, parts, rows as SQL, and processes that are killed: always all or nothing, in bounded memory. */
class ManyRowsTest {
    private static final int ROWS = 100_000;
    private static final int KILLS = Integer.getInteger("zabbet.kills", 2);

    /** More bytes than are read at once: stays in the rooms of one hut. */
    private static Path stays(Path folder, int rows) throws Exception {
        Path file = Files.createDirectories(folder).resolve("stay.csv");
        try (BufferedWriter to = Files.newBufferedWriter(file)) {
            to.write("id,hut_id,room_number,arrives,nights,status,price,booked_at\n");
            for (int i = 1; i <= rows; i++) {
                to.write(String.format(
                        Locale.ROOT,
                        "%d,1,%d,%s,%d,CONFIRMED,%d.50,2031-06-01 08:00:00\n",
                        i,
                        1 + i % 3,
                        LocalDate.of(2031, 7, 1).plusDays(i % 90),
                        1 + i % 14,
                        20 + i % 70));
            }
        }
        return file;
    }

    private static void makeRooms(String url) throws Exception {
        Commands.execute(
                url,
                "INSERT INTO region (id, name, country) VALUES (1, 'Val Drun', 'CH');"
                        + "INSERT INTO hut (id, region_id, name, altitude_m, beds, opened_on) VALUES"
                        + " (1, 1, 'Edelgrat', 2300, 34, '1931-07-05');"
                        + "INSERT INTO room (hut_id, number, beds) VALUES (1, 1, 4), (1, 2, 4), (1, 3, 4)");
    }

    @ParameterizedTest
    @ValueSource(strings = {"H2", "SQLITE", "POSTGRES", "MARIADB"})
    void aLargeCsvIsLoadedWholeOrNotAtAll(String engine, @TempDir Path folder) throws Exception {
        String url = Commands.database(engine, folder);
        makeRooms(url);
        Path file = stays(folder.resolve("good"), ROWS);
        Commands.Outcome loaded = Commands.zabbet(url, "load", file.toString());
        assertEquals("Stored\n  table    rows\n  stay   " + ROWS + "\n", loaded.out(), loaded.err());
        assertEquals(ROWS, Commands.number(url, "SELECT count(*) FROM stay"));
        assertEquals(
                IntStream.rangeClosed(1, ROWS).map(i -> 20 + i % 70).sum() + ROWS / 2,
                Commands.number(url, "SELECT sum(price) FROM stay"));
        assertEquals(2, Commands.zabbet(url, "load", file.toString()).status(), "the keys are stored already");
        assertEquals(ROWS, Commands.number(url, "SELECT count(*) FROM stay"));
        assertEquals(0, Commands.zabbet(url, "add", "stay=1").status(), "the counter is beyond the file's keys");
    }

    @Test
    void defaultsHoldForTheRowsThatAreAdded(@TempDir Path folder) throws Exception {
        String url = Commands.database("H2", Files.createDirectory(folder.resolve("defaults")));
        Path file = Files.writeString(
                folder.resolve("summer.yaml"), "defaults: {stay: {nights: {inTurn: [2, 7]}, status: DONE}}\n");
        Commands.Outcome added = Commands.zabbet(url, "add", "hut=2", "stay=40", "--defaults", file.toString());
        assertEquals(0, added.status(), added.err());
        assertEquals(20, Commands.number(url, "SELECT COUNT(*) FROM stay WHERE nights = 7 AND status = 'DONE'"));
        assertEquals(20, Commands.number(url, "SELECT COUNT(*) FROM stay WHERE nights = 2 AND status = 'DONE'"));
        assertEquals(
                "zabbet: The defaults speak of stay, of which no rows are added by name. Add some, or leave them out of the"
                        + " defaults.\n",
                Commands.zabbet(url, "add", "hut=2", "--defaults", file.toString())
                        .err());
        Files.writeString(file, "tables: {}\n");
        assertEquals(
                "zabbet: " + file + " has no defaults: they are written defaults: {stay: {nights: 2}}.\n",
                Commands.zabbet(url, "add", "hut=2", "--defaults", file.toString())
                        .err());
    }

    @Test
    void allThatIsWrongInALargeCsvIsToldAtOnce(@TempDir Path folder) throws Exception {
        String url = Commands.database("H2", folder);
        makeRooms(url);
        Path file = stays(folder.resolve("good"), ROWS);

        Path bad = folder.resolve("bad/stay.csv");
        Files.createDirectories(bad.getParent());
        List<String> lines = new ArrayList<>(Files.readAllLines(file));
        lines.replaceAll(line -> line.replaceFirst("^(\\d)", "9$1"));
        lines.set(70_001, lines.get(70_001).replace("CONFIRMED", "LOST"));
        lines.set(80_001, lines.get(80_001).replaceFirst("2031-\\d\\d", "2031-13"));
        lines.set(90_001, lines.get(90_001) + ",more");
        Files.write(bad, lines);
        Commands.Outcome refused = Commands.zabbet(url, "load", bad.toString());
        assertEquals(2, refused.status(), refused.out());
        assertTrue(refused.err().contains("bad/stay.csv, line 90002: there are 9 fields"), refused.err());
        lines.remove(90_001);
        Files.write(bad, lines);
        refused = Commands.zabbet(url, "load", bad.toString());
        assertTrue(refused.err().contains("2 things are wrong.\n"), refused.err());
        assertTrue(
                refused.err().contains("bad/stay.csv, line 70002: The row would break the check stay_status of stay"),
                refused.err());
        assertTrue(refused.err().contains("bad/stay.csv, line 80002: stay.arrives is "), refused.err());
        assertEquals(0, Commands.number(url, "SELECT count(*) FROM stay"));
    }

    @ParameterizedTest
    @ValueSource(strings = {"H2", "SQLITE", "POSTGRES", "MARIADB"})
    void partsFromSeveralProcessesAreOneWhole(String engine, @TempDir Path folder) throws Exception {
        String whole = Commands.database(engine, Files.createDirectories(folder.resolve("whole")));
        String parts = Commands.database(engine, Files.createDirectories(folder.resolve("parts")));
        List<String> command = List.of("add", "region=2", "hut=5", "guest=40", "stay=90", "stay_guest=200");
        assertEquals(0, Commands.zabbet(whole, command.toArray(String[]::new)).status());
        List<Process> running = new ArrayList<>();
        List<Integer> order = List.of(2, 3, 1);
        for (int part : order) { // at the same time; they take turns
            List<String> one = new ArrayList<>(command);
            one.addAll(List.of("--part", part + "/3"));
            running.add(Commands.start(parts, folder.resolve("err" + part), one.toArray(String[]::new)));
        }
        for (Process part : running) {
            assertTrue(part.waitFor(60, TimeUnit.SECONDS));
        }
        for (int i = 0; i < running.size(); i++) {
            int part = order.get(i);
            if (running.get(i).exitValue() != 0) { // an H2 file is held by one process, which others do not wait for
                assertEquals("H2", engine, Files.readString(folder.resolve("err" + part)));
                List<String> again = new ArrayList<>(command);
                again.addAll(List.of("--part", part + "/3"));
                Commands.Outcome done = Commands.zabbet(parts, again.toArray(String[]::new));
                assertEquals(0, done.status(), done.err());
            }
        }
        for (String query : List.of(
                "SELECT sum(beds * id) + count(*) FROM hut",
                "SELECT sum(id * (hut_id + room_number)) + count(*) FROM stay",
                "SELECT sum(stay_id * guest_id) + count(*) FROM stay_guest",
                "SELECT sum(id * length(email)) FROM guest",
                "SELECT sum(hut_id * number * beds) FROM room")) {
            assertEquals(Commands.number(whole, query), Commands.number(parts, query), query);
        }
        Commands.Outcome wrong = Commands.zabbet(parts, "add", "hut=4", "--part", "5/4");
        assertEquals("zabbet: There is no part 5 of 4; parts are numbered from 1 to 4.\n", wrong.err());
    }

    @ParameterizedTest
    @ValueSource(strings = {"H2", "SQLITE", "POSTGRES", "MARIADB"})
    void rowsWrittenAsSqlAreThoseThatWouldBeStored(String engine, @TempDir Path folder) throws Exception {
        String stored = Commands.database(engine, Files.createDirectories(folder.resolve("stored")));
        String bySql = Commands.database(engine, Files.createDirectories(folder.resolve("sql")));
        Path file = folder.resolve("rows.sql");
        String seed = Commands.EXAMPLES.resolve("seeds/huts.yaml").toString();
        Commands.Outcome written = Commands.zabbet(bySql, "load", seed, "--out", file.toString());
        assertTrue(written.out().startsWith("Written to " + file + "; nothing was stored\n"), written.err());
        assertEquals(0, Commands.number(bySql, "SELECT count(*) FROM hut"));
        dev.zabbet.jdbc.Jdbc.runSql(dev.zabbet.jdbc.Jdbc.dataSource(bySql, "", ""), Files.readString(file));
        assertEquals(0, Commands.zabbet(stored, "load", seed).status());
        for (String query : List.of(
                "SELECT sum(beds * id) + count(*) FROM hut",
                "SELECT sum(id * room_number) + sum(price) + count(*) FROM stay",
                "SELECT count(*) FROM hut WHERE warden_id IS NOT NULL")) {
            assertEquals(Commands.number(stored, query), Commands.number(bySql, query), query);
        }
        for (String database : List.of(stored, bySql)) {
            assertEquals(0, Commands.zabbet(database, "add", "hut=1").status(), "counters are beyond the rows");
        }
    }

    @ParameterizedTest
    @ValueSource(strings = {"H2", "SQLITE", "POSTGRES", "MARIADB"})
    void aKilledProcessLeavesNothingHalfStored(String engine, @TempDir Path folder) throws Exception {
        String url = Commands.database(engine, folder);
        makeRooms(url);
        String file = stays(folder.resolve("stays"), ROWS).toString();
        Random random = new Random(11);
        int inTheMiddle = 0;
        int partly = 0;
        for (int kill = 0; kill < KILLS; kill++) {
            boolean load = kill % 2 == 0;
            Process process = load
                    ? Commands.start(url, folder.resolve("err"), "load", file)
                    : Commands.start(url, folder.resolve("err"), "add", "guest=60000");
            if (!process.waitFor(900 + random.nextInt(2200), TimeUnit.MILLISECONDS)) {
                process.destroyForcibly().waitFor();
                inTheMiddle++;
            }
            String table = load ? "stay" : "guest";
            long rows = Commands.number(url, "SELECT count(*) FROM " + table);
            boolean whole = rows == 0 || rows == (load ? ROWS : 60_000);
            assertTrue(whole || engine.equals("H2"), () -> engine + " " + rows + " of " + table);
            Commands.Outcome next = Commands.zabbet(url, "add", table + "=1");
            if (!whole) { // H2 itself keeps a part now and then; then nothing goes on as if it were all
                partly++;
                assertEquals(
                        "zabbet: A process was killed while it stored rows in the H2 database FILE on this machine, and H2"
                                + " kept a part of them: " + rows + " of " + (load ? ROWS : 60_000) + " rows of "
                                + table
                                + ". Its indexes may not fit its rows any more: delete the file and make it again.\n",
                        next.err().replaceAll("/[^ ]+/huts", "FILE"));
                url = Commands.database(engine, Files.createDirectory(folder.resolve("anew" + kill)));
                makeRooms(url);
                continue;
            }
            assertEquals(0, next.status(), next.err());
            assertEquals(rows + 1, Commands.number(url, "SELECT count(*) FROM " + table));
            Commands.execute(
                    url,
                    engine.equals("POSTGRES") // where each row deleted looks for others that refer to it
                            ? "TRUNCATE stay, guest CASCADE"
                            : "DELETE FROM stay; DELETE FROM guest");
        }
        System.out.println("kills on " + engine + ": " + inTheMiddle + " of " + KILLS + " before the end"
                + (partly == 0 ? "" : ", " + partly + " of them kept in part, and said so"));
    }

    @Test
    void progressIsToldAfterTwoSecondsOnATerminalOnly() {
        for (boolean terminal : List.of(true, false)) {
            StringWriter told = new StringWriter();
            long[] time = {0};
            try (LoadProgress work = new LoadProgress(new PrintWriter(told), terminal, () -> time[0])) {
                for (int i = 0; i < 40; i++) {
                    time[0] += 100;
                    work.at("stay", i * 1000, 1_000_000);
                }
            }
            List<String> lines = new ArrayList<>(List.of(told.toString().split("\r\u001B\\[K", -1)));
            lines.removeAll(Collections.singleton(""));
            assertEquals(terminal ? 11 : 0, lines.size(), lines::toString);
            if (terminal) {
                assertEquals("stay: 19,000 of 1,000,000 rows (1 %)", lines.get(0));
            }
        }
    }
}
