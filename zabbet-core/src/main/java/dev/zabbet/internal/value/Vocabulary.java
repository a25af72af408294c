package dev.zabbet.internal.value;

import java.util.List;

/** Small word lists of our own: invented people, places and firms, and plain words. */
public final class Vocabulary {
    public static final List<String> GIVEN =
            words("Alva Bruno Cilia Dario Enea Fiorina Gian Hedi Ilario Jolanda Kaspar Livia Maurus Nesa Ottavia Pirmin"
                    + " Quirin Ramona Silvan Tamara Urs Verena Wendel Xenia Ylva Zeno");
    public static final List<String> FAMILY =
            words("Amrain Bardill Caduff Derungs Egloff Flepp Gadient Hosang Inauen Juon Koller Luzi Marugg Nett Orlik"
                    + " Pfiffner Quadri Riedi Schorta Tuor Ursin Vital Wyler Zarn");
    public static final List<String> PLACES =
            words("Edelgrat Fuorcla Schattwand Murmelboden Silbersee Windegg Hornlauf Steinbruch Nebelalp Grauhorn"
                    + " Lawinenzug Morgenfluh Tiefmatt Rotbach Sonnegg Kaltwasser Adlerstein Birkenrain Felsentor"
                    + " Gletschblick Hochried Distelboden Krummtal Vorderwald");
    public static final List<String> WORDS = words(
            "amber basin cedar delta ember fern grove harbor inlet juniper kiln lantern meadow nectar orchard pebble"
                    + " quarry ridge saddle timber upland valley willow yarrow zephyr anvil beacon copper drift"
                    + " elder");
    public static final List<String> STREETS =
            words("Enzianweg Seilbahnstrasse Hangweg Kirchgasse Brunnenplatz Talstrasse Sonnenhalde Muehleweg Bachweg");
    public static final List<String> FIRMS =
            words("Gratwerk Nordwand Quellbach Talstation Firnfeld Steinmatt Hochlicht Bergsicht Klammtal Seilpark");
    public static final List<String> FORMS = words("AG GmbH SA Coop");
    public static final List<String> QUALITIES =
            words("Amber Brisk Compact Crimson Double Eastern Folding Gentle Hollow Indigo Ivory Light Linen Long Oak"
                    + " Plain Quiet Round Russet Silver Slim Smooth Sturdy Twin Velvet Winter Woven Yellow");
    public static final List<String> THINGS =
            words("Atlas Basket Bench Blanket Bottle Bowl Brush Candle Chair Clock Compass Cup Drum Easel Flute Frame"
                    + " Globe Hammer Jacket Kettle Ladder Lamp Mirror Needle Notebook Oven Paddle Pillow Pitcher Rug"
                    + " Scarf Shelf Spoon Stool Tent Tray Vase Wheel");
    public static final List<String> COUNTRIES = words("CH AT IT SI DE FR LI");

    private Vocabulary() {}

    private static List<String> words(String list) {
        return List.of(list.split(" "));
    }
}
