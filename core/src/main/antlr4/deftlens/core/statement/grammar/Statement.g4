/**
 * The condition language. The grammar knows the shape only; whether a test fits a field is the reader's business.
 * Keywords are not reserved: a field may carry any of them as its name.
 */
grammar Statement;

options {
    caseInsensitive = true;
}

statement : any? EOF ;
lonePeriod : period EOF ;

any : all ( OR all )* ;
all : unit ( AND unit )* ;
unit : NOT? atom ;
atom
    : LPAREN any RPAREN       # bracket
    | OFF LPAREN any RPAREN   # off
    | field test              # criterion
    ;

field : name | BRACKETED ;

test
    : IS NOT? IN valueList EXACTLY?                                   # isIn
    | IS NOT? EMPTY                                              # isEmpty
    | IS LIKE STRING EXACTLY?                                    # isLike
    | IS NOT? value EXACTLY?                                     # isValue
    | sign value                                                 # compareSign
    | IS ( MORE_WORD THAN | LESS THAN | AT LEAST | AT MOST ) value    # compareWords
    | CONTAINS STRING EXACTLY?                                   # contains
    | DOES NOT CONTAIN STRING EXACTLY?                           # containsNot
    | STARTS WITH STRING EXACTLY?                                # startsWith
    | ENDS WITH STRING EXACTLY?                                  # endsWith
    | HAS ( ANY | ALL | NONE ) OF valueList                           # tagged
    | IS? BETWEEN period AND period                              # between
    | IS? NOT? ( IN | ON ) period                                # inPeriod
    | IS? ( BEFORE | AFTER | FROM | UP TO ) period               # dated
    | IS? ( MORE_WORD THAN | LESS THAN | AT LEAST ) NUMBER unitName ( AGO | FROM NOW )   # distance
    ;

sign : EQ | NE | GT | GE | LT | LE ;

valueList : LPAREN value ( COMMA value )* COMMA? RPAREN ;

value
    : STRING
    | NUMBER
    | YES
    | NO
    | ME
    | MY name
    | name
    ;

period : simplePeriod ( ( TO | SLASH ) simplePeriod )? ;

simplePeriod : ( START | END ) OF plainPeriod | plainPeriod ;

plainPeriod
    : ( TODAY | YESTERDAY | TOMORROW )                 # nearDay
    | ( THIS | LAST | NEXT ) unitName                  # calendar
    | ( LAST | NEXT ) NUMBER unitName                  # running
    | ( LAST | NEXT ) NUMBER FULL unitName             # full
    | NUMBER unitName ( AGO | FROM NOW )               # away
    | weekday OF ( THIS | LAST | NEXT ) WEEK           # weekdayOf
    | ( ISO_DATE | FISCAL_DATE | NUMBER )              # literal
    | LOCAL_DATE                                       # localDate
    ;

unitName : ( FISCAL | WORKING )? ( MINUTE | HOUR | DAY | WEEK | MONTH | QUARTER | HALF | YEAR ) ;

weekday : MONDAY | TUESDAY | WEDNESDAY | THURSDAY | FRIDAY | SATURDAY | SUNDAY ;

name
    : WORD | AND | OR | OFF | IS | IN | ON | EMPTY | LIKE | EXACTLY | MORE_WORD | LESS | THAN | AT | LEAST | MOST
    | CONTAINS | DOES | CONTAIN | STARTS | ENDS | WITH | HAS | ANY | ALL | NONE | OF | BETWEEN | BEFORE | AFTER
    | FROM | UP | TO | YES | NO | ME | MY | TODAY | YESTERDAY | TOMORROW | THIS | LAST | NEXT | FULL | AGO | NOW
    | START | END | FISCAL | WORKING | MINUTE | HOUR | DAY | WEEK | MONTH | QUARTER | HALF | YEAR
    | MONDAY | TUESDAY | WEDNESDAY | THURSDAY | FRIDAY | SATURDAY | SUNDAY | FISCAL_DATE
    ;

AND : 'and' ;
OR : 'or' ;
NOT : 'not' ;
OFF : 'off' ;
IS : 'is' ;
IN : 'in' ;
ON : 'on' ;
EMPTY : 'empty' ;
LIKE : 'like' ;
EXACTLY : 'exactly' ;
MORE_WORD : 'more' ;
LESS : 'less' ;
THAN : 'than' ;
AT : 'at' ;
LEAST : 'least' ;
MOST : 'most' ;
CONTAINS : 'contains' ;
DOES : 'does' ;
CONTAIN : 'contain' ;
STARTS : 'starts' ;
ENDS : 'ends' ;
WITH : 'with' ;
HAS : 'has' ;
ANY : 'any' ;
ALL : 'all' ;
NONE : 'none' ;
OF : 'of' ;
BETWEEN : 'between' ;
BEFORE : 'before' ;
AFTER : 'after' ;
FROM : 'from' ;
UP : 'up' ;
TO : 'to' ;
YES : 'yes' ;
NO : 'no' ;
ME : 'me' ;
MY : 'my' ;
TODAY : 'today' ;
YESTERDAY : 'yesterday' ;
TOMORROW : 'tomorrow' ;
THIS : 'this' ;
LAST : 'last' ;
NEXT : 'next' ;
FULL : 'full' ;
AGO : 'ago' ;
NOW : 'now' ;
START : 'start' ;
END : 'end' ;
FISCAL : 'fiscal' ;
WORKING : 'working' ;
MINUTE : 'minute' 's'? ;
HOUR : 'hour' 's'? ;
DAY : 'day' 's'? ;
WEEK : 'week' 's'? ;
MONTH : 'month' 's'? ;
QUARTER : 'quarter' 's'? ;
HALF : 'half' | 'halves' ;
YEAR : 'year' 's'? ;
MONDAY : 'monday' ;
TUESDAY : 'tuesday' ;
WEDNESDAY : 'wednesday' ;
THURSDAY : 'thursday' ;
FRIDAY : 'friday' ;
SATURDAY : 'saturday' ;
SUNDAY : 'sunday' ;

EQ : '=' ;
NE : '!=' ;
GE : '>=' ;
GT : '>' ;
LE : '<=' ;
LT : '<' ;
LPAREN : '(' ;
RPAREN : ')' ;
COMMA : ',' ;
SLASH : '/' ;

/** ISO 8601 days, months, quarters, halves, weeks and moments; checked in detail by the reader. */
ISO_DATE : DIGIT DIGIT DIGIT DIGIT '-' [0-9QHW] [0-9T:.-]* ;
FISCAL_DATE : 'FY' DIGIT DIGIT DIGIT DIGIT ( '-Q' DIGIT+ )? ;
/** A date in the manner of one country or another: read to be refused with its readings. */
LOCAL_DATE : DIGIT+ [/.-] DIGIT+ [/.-] DIGIT+ ;
NUMBER : '-'? DIGIT+ ( '.' DIGIT+ )? ;
STRING : '"' ( '\\' . | ~["\\] )* '"' ;
OPEN_STRING : '"' ( '\\' . | ~["\\] )* ;
BRACKETED : '[' ~[\]\r\n]* ']' ;
WORD : [\p{L}_] [\p{L}\p{M}\p{N}_]* ;
SPACE : [\p{White_Space}\u200B\uFEFF]+ -> skip ;
STRAY : . ;

fragment DIGIT : [0-9] ;
