package deftlens.server.imports;

import deftlens.server.platform.Problem;
import java.io.BufferedInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.CharBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.Charset;
import java.nio.charset.CharsetDecoder;
import java.nio.charset.CoderResult;
import java.nio.charset.CodingErrorAction;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVParser;
import org.apache.commons.csv.CSVRecord;
import org.apache.commons.io.input.BoundedInputStream;

/** A CSV file (RFC 4180, with any of the common delimiters and encodings). */
record CsvSource(Path file, Charset encoding, char delimiter) implements Tabular {

    private static final List<Character> DELIMITERS = List.of(',', ';', '\t', '|');
    private static final int LOOKED_AT = 200;

    /** What the bytes of a file say of its encoding. */
    record Encoding(Charset charset, boolean sure) {}

    /** The encoding of a file: by its mark or its zeros UTF-16, by its form UTF-8, else most probably Windows-1252. */
    static Encoding encoding(Path file) throws IOException {
        byte[] head = new byte[4096];
        int length;
        try (InputStream in = Files.newInputStream(file)) {
            length = in.readNBytes(head, 0, head.length);
        }
        if (length >= 2 && (head[0] == (byte) 0xFF && head[1] == (byte) 0xFE)) {
            return new Encoding(StandardCharsets.UTF_16LE, true);
        }
        if (length >= 2 && (head[0] == (byte) 0xFE && head[1] == (byte) 0xFF)) {
            return new Encoding(StandardCharsets.UTF_16BE, true);
        }
        int odd = 0;
        int even = 0;
        for (int i = 0; i < length; i++) {
            if (head[i] == 0) {
                if (i % 2 == 0) {
                    even++;
                } else {
                    odd++;
                }
            }
        }
        if (odd > length / 5 || even > length / 5) {
            return new Encoding(odd > even ? StandardCharsets.UTF_16LE : StandardCharsets.UTF_16BE, true);
        }
        return isUtf8(file)
                ? new Encoding(StandardCharsets.UTF_8, true)
                : new Encoding(Charset.forName("windows-1252"), false);
    }

    private static boolean isUtf8(Path file) throws IOException {
        CharsetDecoder decoder = StandardCharsets.UTF_8
                .newDecoder()
                .onMalformedInput(CodingErrorAction.REPORT)
                .onUnmappableCharacter(CodingErrorAction.REPORT);
        ByteBuffer bytes = ByteBuffer.allocate(1 << 16);
        CharBuffer letters = CharBuffer.allocate(1 << 16);
        try (var in = Files.newByteChannel(file)) {
            while (in.read(bytes) >= 0) {
                bytes.flip();
                letters.clear();
                if (decoder.decode(bytes, letters, false).isError()) {
                    return false;
                }
                bytes.compact();
            }
            bytes.flip();
            letters.clear();
            CoderResult end = decoder.decode(bytes, letters, true);
            return !end.isError();
        } catch (CharacterCodingException e) {
            return false;
        }
    }

    /** How evenly rows are split, and into how many columns, whatever stands before them as a title. */
    private static double merit(List<Integer> widths) {
        Map<Integer, Long> counts = widths.stream().collect(Collectors.groupingBy(w -> w, Collectors.counting()));
        return counts.entrySet().stream()
                .filter(e -> e.getKey() > 1)
                .mapToDouble(e -> (double) e.getValue() / widths.size() * Math.min(e.getKey(), 50))
                .max()
                .orElse(0);
    }

    /** The delimiter that splits the first rows most evenly into most columns. */
    static char delimiter(Path file, Charset encoding) throws IOException {
        char best = ',';
        double most = 0;
        for (char candidate : DELIMITERS) {
            List<Integer> widths = new ArrayList<>();
            try {
                new CsvSource(file, encoding, candidate).each((line, cells) -> {
                    widths.add(cells.size());
                    return widths.size() < LOOKED_AT;
                });
            } catch (IOException | UncheckedIOException | Problem e) {
                continue;
            }
            if (widths.isEmpty()) {
                continue;
            }
            double merit = merit(widths);
            if (merit > most) {
                most = merit;
                best = candidate;
            }
        }
        return best;
    }

    @Override
    public long size() throws IOException {
        return Files.size(file);
    }

    @Override
    public void each(Each each) throws IOException {
        CSVFormat format = CSVFormat.RFC4180
                .builder()
                .setDelimiter(delimiter)
                .setIgnoreEmptyLines(false)
                .setLenientEof(true)
                .setTrailingData(true)
                .get();
        try (BoundedInputStream counted =
                        BoundedInputStream.builder().setPath(file).get();
                InputStream in = new BufferedInputStream(counted, 1 << 16);
                FileLimits.BoundedRows reader = new FileLimits.BoundedRows(new InputStreamReader(in, encoding));
                CSVParser parser =
                        CSVParser.builder().setReader(reader).setFormat(format).get()) {
            long line = 1;
            boolean first = true;
            for (CSVRecord record : parser) {
                List<String> cells = record.toList();
                if (first && !cells.isEmpty() && cells.get(0).startsWith("\uFEFF")) {
                    cells = new ArrayList<>(cells);
                    cells.set(0, cells.get(0).substring(1));
                }
                first = false;
                FileLimits.require(line, cells);
                each.at(counted.getCount());
                boolean blank = cells.stream().allMatch(String::isBlank);
                if (!blank && !each.row(line, cells)) {
                    return;
                }
                line = parser.getCurrentLineNumber() + 1;
                reader.next(line);
            }
        } catch (UncheckedIOException e) {
            throw e.getCause();
        }
    }
}
