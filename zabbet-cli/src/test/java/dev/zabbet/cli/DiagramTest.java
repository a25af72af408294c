package dev.zabbet.cli;

import static dev.zabbet.cli.Commands.zabbet;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.cli.diagram.SchemaDiagram;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.io.StringReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.TimeUnit;
import javax.xml.parsers.DocumentBuilderFactory;
import org.h2.jdbcx.JdbcDataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.w3c.dom.Document;
import org.w3c.dom.Element;
import org.w3c.dom.NodeList;
import org.xml.sax.InputSource;

/** Pictures of schemas: as shapes that are measured, and as a page in a browser. */
class DiagramTest {
    private static final String HUTS = "jdbc:h2:mem:diagram;INIT=RUNSCRIPT FROM '"
            + Commands.EXAMPLES.resolve("db/huts.sql").toString().replace('\\', '/') + "'";

    @Test
    void noLineCrossesABoxAndNoTableIsMissing() throws Exception {
        long variation = Long.getLong("zabbet.variation", System.nanoTime());
        System.out.println("DiagramTest: variation " + variation);
        Random random = new Random(variation);
        for (int tables : new int[] {1, 12, 30, 31, 61, 164}) {
            Schema schema = schema(randomTables(tables, random));
            String svg = SchemaDiagram.svg(schema);
            assertEquals(svg, SchemaDiagram.svg(schema), "the same schema is the same picture");
            check(schema, svg, tables + " tables, variation " + variation);
        }
    }

    @Test
    void aLargeSchemaFitsTwoSheetsOfPaper() throws Exception {
        Schema schema = schema(randomTables(164, new Random(5)));
        Document svg = parsed(SchemaDiagram.svg(schema));
        double width = number(svg.getDocumentElement(), "width");
        double height = number(svg.getDocumentElement(), "height");
        double millimetres = 11.5 * Math.min(594 / width, 420 / height);
        assertTrue(millimetres > 1.6, width + " x " + height + ": letters of " + millimetres + " mm");
        String text = svg.getDocumentElement().getTextContent();
        assertTrue(text.contains("only keys and references are shown"), "what is left out is said");
        assertTrue(text.contains("→ person"), "a reference into another frame is a word");
    }

    /** Boxes lie apart and inside the picture; a line touches no box but those of its two tables, and these at their sides. */
    private static void check(Schema schema, String text, String where) throws Exception {
        Document svg = parsed(text);
        double width = number(svg.getDocumentElement(), "width");
        double height = number(svg.getDocumentElement(), "height");
        String words = svg.getDocumentElement().getTextContent();
        Map<String, double[]> boxes = new HashMap<>();
        for (Element group : groups(svg, "table")) {
            Element box = (Element) group.getElementsByTagName("rect").item(0);
            double x = number(box, "x");
            double y = number(box, "y");
            double[] corners = {x, y, x + number(box, "width"), y + number(box, "height")};
            assertTrue(x >= 0 && y >= 0 && corners[2] <= width && corners[3] <= height, where);
            boxes.put(group.getAttribute("data-table"), corners);
        }
        assertEquals(
                new TreeSet<>(schema.tables().stream().map(Table::name).toList()),
                new TreeSet<>(boxes.keySet()),
                where);
        List<String> names = List.copyOf(boxes.keySet());
        for (int i = 0; i < names.size(); i++) {
            for (int j = 0; j < i; j++) {
                assertFalse(overlap(boxes.get(names.get(i)), boxes.get(names.get(j))), where + ": " + names.get(i));
            }
        }
        Set<String> drawn = new HashSet<>();
        for (Element group : groups(svg, "reference")) {
            String from = group.getAttribute("data-from");
            drawn.add(from + " " + group.getAttribute("data-to"));
            String[] path = ((Element) group.getElementsByTagName("path").item(0))
                    .getAttribute("d")
                    .replaceAll("[ML]", "")
                    .trim()
                    .split("\\s+");
            for (int i = 0; i + 3 < path.length; i += 2) {
                double[] line = line(path, i);
                boxes.forEach((name, box) ->
                        assertFalse(overlap(line, box), () -> where + ": " + from + " runs over " + name));
            }
        }
        for (Table table : schema.tables()) {
            for (Reference reference : table.references()) {
                String target = schema.require(reference.target()).name();
                assertTrue(
                        drawn.contains(table.name() + " " + target)
                                || words.contains("→ " + target)
                                || words.contains(", " + target),
                        where + ": " + table.name() + " " + reference);
            }
        }
    }

    private static double[] line(String[] path, int i) {
        double x1 = Double.parseDouble(path[i]);
        double y1 = Double.parseDouble(path[i + 1]);
        double x2 = Double.parseDouble(path[i + 2]);
        double y2 = Double.parseDouble(path[i + 3]);
        return new double[] {Math.min(x1, x2), Math.min(y1, y2), Math.max(x1, x2), Math.max(y1, y2)};
    }

    /** Whether two rectangles share more than an edge. */
    private static boolean overlap(double[] one, double[] other) {
        double near = 0.5;
        return one[0] < other[2] - near
                && one[2] > other[0] + near
                && one[1] < other[3] - near
                && one[3] > other[1] + near;
    }

    private static Document parsed(String svg) throws Exception {
        return DocumentBuilderFactory.newInstance().newDocumentBuilder().parse(new InputSource(new StringReader(svg)));
    }

    private static List<Element> groups(Document svg, String kind) {
        List<Element> groups = new ArrayList<>();
        NodeList all = svg.getElementsByTagName("g");
        for (int i = 0; i < all.getLength(); i++) {
            if (((Element) all.item(i)).getAttribute("class").equals(kind)) {
                groups.add((Element) all.item(i));
            }
        }
        return groups;
    }

    private static double number(Element element, String name) {
        return Double.parseDouble(element.getAttribute(name));
    }

    private static Schema schema(String script) throws Exception {
        JdbcDataSource source = new JdbcDataSource();
        source.setURL("jdbc:h2:mem:diagram" + Commands.NUMBER.incrementAndGet() + ";DB_CLOSE_DELAY=-1");
        source.setUser("sa");
        try (var connection = source.getConnection();
                var statement = connection.createStatement()) {
            statement.execute(script);
            return Jdbc.schema(source);
        } finally {
            try (var connection = source.getConnection();
                    var statement = connection.createStatement()) {
                statement.execute("SHUTDOWN");
            }
        }
    }

    /** Tables as applications have them: departments with tables of their own, and persons that all of them refer to. */
    private static String randomTables(int count, Random random) {
        StringBuilder script = new StringBuilder(
                "CREATE TABLE person (id INT PRIMARY KEY, name VARCHAR(40), chief INT REFERENCES person);\n");
        List<List<String>> departments = new ArrayList<>();
        for (int i = 1; i < count; i++) {
            if (departments.isEmpty() || random.nextInt(11) == 0) {
                departments.add(new ArrayList<>());
            }
            List<String> department = departments.get(random.nextInt(departments.size()));
            String name = random.nextInt(9) == 0 ? "\"Größe <" + i + "> & co\"" : "thing_" + i;
            script.append("CREATE TABLE ").append(name).append(" (id INT PRIMARY KEY");
            for (int c = random.nextInt(12); c >= 0; c--) {
                script.append(", text_")
                        .append(c)
                        .append(" VARCHAR(")
                        .append(1 + random.nextInt(200))
                        .append(')');
            }
            for (int r = random.nextInt(4); r > 0 && !department.isEmpty(); r--) {
                script.append(", ref_")
                        .append(r)
                        .append(" INT REFERENCES ")
                        .append(department.get(random.nextInt(department.size())));
            }
            if (random.nextInt(3) == 0) {
                script.append(", person_id INT REFERENCES person");
            }
            script.append(random.nextInt(12) == 0 ? ", parent_id INT REFERENCES " + name : "")
                    .append(");\n");
            department.add(name);
        }
        return script.toString();
    }

    @Test
    void thePageShowsATableWithItsNeighboursAndFindsColumns(@TempDir Path folder) throws Exception {
        Path page = folder.resolve("huts.html");
        assertEquals(
                "Written: " + page + ", 8 tables\n",
                zabbet(HUTS, "schema", "--out", page.toString()).out());
        String html = Files.readString(page);
        assertFalse(html.contains("{{"), "a place of the template was not filled");
        assertFalse(
                html.replace("http://www.w3.org/2000/svg", "").contains("http"),
                "the page needs nothing from elsewhere");

        String none = inBrowser(page, "", "");
        assertTrue(none.contains("<h2>Choose a table</h2>"), none);
        String stay = inBrowser(page, "#stay", "");
        assertTrue(stay.contains("<h2>stay</h2><small></small><h3>9 columns</h3>"), stay);
        assertTrue(stay.contains("<li>hut_id, room_number → <a href=\"#room\">room</a></li>"), stay);
        assertTrue(stay.contains("<li><a href=\"#ledger_entry\">ledger_entry</a> stay_id</li>"), stay);
        assertEquals(new TreeSet<>(Set.of("hut", "room", "ledger_entry", "stay_guest")), marked(stay, "near"));
        assertEquals(new TreeSet<>(Set.of("stay")), marked(stay, "this"));

        String found = inBrowser(
                page,
                "",
                "const s = document.getElementById('search'); s.focus(); s.value = 'PHONE'; s.dispatchEvent(new Event('input'));"
                        + "document.title = document.getElementById('found').textContent;"
                        + "s.dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter'}));");
        assertTrue(found.contains("<title>warden with column phone</title>"), found);
        assertEquals(new TreeSet<>(Set.of("warden")), marked(found, "this"));
        String nothing = inBrowser(
                page,
                "#hut",
                "document.dispatchEvent(new KeyboardEvent('keydown', {key: 'Escape'}));"
                        + "const s = document.getElementById('search'); s.focus(); s.value = 'xyz'; s.dispatchEvent(new Event('input'));");
        assertTrue(nothing.contains("No table or column is called that."), nothing);
        assertEquals(new TreeSet<>(), marked(nothing, "this"));
    }

    private static TreeSet<String> marked(String dom, String kind) {
        TreeSet<String> tables = new TreeSet<>();
        var table = java.util.regex.Pattern.compile("<g class=\"table( [a-z ]+)?\" data-table=\"([^\"]+)\"")
                .matcher(dom);
        while (table.find()) {
            if (table.group(1) != null
                    && List.of(table.group(1).trim().split(" ")).contains(kind)) {
                tables.add(table.group(2));
            }
        }
        return tables;
    }

    /** Opens the page in Chromium, runs the script in it, and returns the elements that are there then. */
    private static String inBrowser(Path page, String hash, String script) throws Exception {
        String browser = System.getenv("ZABBET_TEST_BROWSER");
        boolean there = browser != null || Files.isExecutable(Path.of("/usr/bin/chromium"));
        assumeTrue(there, "no browser: set ZABBET_TEST_BROWSER to a Chromium");
        Path copy = page.resolveSibling("tried.html");
        Files.writeString(copy, Files.readString(page).replace("</body>", "<script>" + script + "</script></body>"));
        Path log = page.resolveSibling("browser.log");
        Process process = new ProcessBuilder(
                        browser == null ? "/usr/bin/chromium" : browser,
                        "--headless",
                        "--no-sandbox",
                        "--disable-gpu",
                        "--disable-quic",
                        "--no-first-run",
                        "--disable-background-networking",
                        "--disable-component-update",
                        "--disable-sync",
                        "--window-size=1280,800",
                        "--enable-logging=stderr",
                        "--user-data-dir=" + page.resolveSibling("browser"),
                        "--dump-dom",
                        copy.toUri() + hash)
                .redirectError(log.toFile())
                .start();
        String dom = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertTrue(process.waitFor(60, TimeUnit.SECONDS));
        String printed = Files.readString(log);
        assertFalse(printed.contains("CONSOLE"), printed);
        return dom;
    }
}
