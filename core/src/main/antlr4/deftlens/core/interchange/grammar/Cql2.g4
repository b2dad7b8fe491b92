/** OGC CQL2, text encoding (OGC 21-065r2), as far as filters over fields go. */
grammar Cql2;

options {
    caseInsensitive = true;
}

filter : expression EOF ;

expression
    : NOT expression                                        # not
    | expression AND expression                             # and
    | expression OR expression                              # or
    | LPAREN expression RPAREN                              # bracket
    | scalar op=( EQ | NE | LT | LE | GT | GE ) scalar      # comparison
    | scalar NOT? BETWEEN scalar AND scalar                 # between
    | scalar NOT? LIKE scalar                               # like
    | scalar NOT? IN LPAREN scalar ( COMMA scalar )* RPAREN # in
    | scalar IS NOT? NULL                                   # isNull
    | name LPAREN argument ( COMMA argument )* RPAREN       # call
    | ( TRUE | FALSE )                                      # truth
    ;

scalar
    : STRING                                                # text
    | MINUS? NUMBER                                         # number
    | ( TRUE | FALSE )                                      # yesNo
    | DATE LPAREN STRING RPAREN                             # date
    | TIMESTAMP LPAREN STRING RPAREN                        # timestamp
    | name LPAREN argument ( COMMA argument )* RPAREN       # function
    | name                                                  # property
    ;

argument
    : INTERVAL LPAREN scalar COMMA scalar RPAREN            # interval
    | LPAREN ( scalar ( COMMA scalar )* )? RPAREN           # array
    | scalar                                                # plain
    ;

name : WORD | QUOTED ;

AND : 'and' ;
OR : 'or' ;
NOT : 'not' ;
LIKE : 'like' ;
BETWEEN : 'between' ;
IN : 'in' ;
IS : 'is' ;
NULL : 'null' ;
TRUE : 'true' ;
FALSE : 'false' ;
DATE : 'date' ;
TIMESTAMP : 'timestamp' ;
INTERVAL : 'interval' ;
EQ : '=' ;
NE : '<>' ;
LE : '<=' ;
LT : '<' ;
GE : '>=' ;
GT : '>' ;
LPAREN : '(' ;
RPAREN : ')' ;
COMMA : ',' ;
MINUS : '-' ;
NUMBER : ( [0-9]+ ( '.' [0-9]* )? | '.' [0-9]+ ) ( 'e' [+-]? [0-9]+ )? ;
STRING : '\'' ( '\'\'' | '\\\'' | ~['] )* '\'' ;
QUOTED : '"' ~["]* '"' ;
WORD : [\p{L}_:] [\p{L}\p{M}\p{N}_.:]* ;
SPACE : [\p{White_Space}]+ -> skip ;
STRAY : . ;
