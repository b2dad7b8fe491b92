package deftlens.core.statement;

import deftlens.core.statement.grammar.StatementLexer;
import org.antlr.v4.runtime.CharStreams;
import org.antlr.v4.runtime.Token;

/** What the language takes for words of its own. */
final class Words {

    private Words() {}

    /** Whether a name is spelled like a word of the language, or like anything else than a single name. */
    static boolean isWord(String name) {
        StatementLexer lexer = new StatementLexer(CharStreams.fromString(name));
        lexer.removeErrorListeners();
        Token token = lexer.nextToken();
        return token.getType() != StatementLexer.WORD || lexer.nextToken().getType() != Token.EOF;
    }
}
