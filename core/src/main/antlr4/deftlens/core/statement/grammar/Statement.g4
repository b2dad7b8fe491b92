/**
 * The condition language. The grammar knows the shape only; whether a test fits a field is the reader's business.
 * Keywords are not reserved: a field may carry any of them as its name.
 */
grammar Statement;

options {
    caseInsensitive = true;
}

/** A KNOWN is a WORD that the reader knows as a field's name. */
tokens { KNOWN }

statement : any? EOF ;
lonePeriod : period EOF ;
loneValue : value EOF ;
lonePiece : STRING EOF ;

/** How a field is calculated; a statement alone is yes or no. */
calculation : ( any | sum ) EOF ;

/** A number that has its sign stands without another one: “a -5”. */
sum : product ( ( PLUS | MINUS )? product )* ;

product : factor ( ( STAR | SLASH ) factor )* ;

factor : MINUS? operand ;

operand
    : length                                                     # lengthFactor
    | NUMBER unitName                                            # unitFactor
    | NUMBER                                                     # numberFactor
    | STRING                                                     # textFactor
    | ( YES | NO )                                               # truthFactor
    | NOW                                                        # nowFactor
    | TODAY                                                      # todayFactor
    | ISO_DATE                                                   # dayFactor
    | CLOCK                                                      # clockFactor
    | name LPAREN ( argument ( COMMA argument )* COMMA? )? RPAREN     # call
    | LPAREN sum RPAREN                                          # bracketFactor
    | field                                                      # fieldFactor
    ;

argument : any | sum ;

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
    | IS LIKE piece EXACTLY?                                     # isLike
    // Before a value: "is in 2026" is a year, and no field of the name "in" with something added.
    | IS? NOT? ( IN | ON ) when                                  # inPeriod
    | IS NOT? value EXACTLY?                                     # isValue
    | sign value                                                 # compareSign
    | IS ( MORE_WORD THAN | LESS THAN | AT LEAST | AT MOST ) value    # compareWords
    | CONTAINS piece EXACTLY?                                    # contains
    | DOES NOT CONTAIN piece EXACTLY?                            # containsNot
    | STARTS WITH piece EXACTLY?                                 # startsWith
    | ENDS WITH piece EXACTLY?                                   # endsWith
    | HAS ( ANY | ALL | NONE ) OF valueList                           # tagged
    | IS? BETWEEN period AND period                              # between
    | IS? BETWEEN lengthOrAsk AND lengthOrAsk                    # betweenLengths
    | IS? ( BEFORE | AFTER | FROM | UP TO ) when                 # dated
    | IS? ( MORE_WORD THAN | LESS THAN | AT LEAST ) count unitName ( AGO | FROM NOW )   # distance
    | MATCHING EXACTLY?                                          # matches
    | NOT? IN LPAREN place ( WHERE any )? RPAREN                 # related
    | IS? NOT? IN BAND ( piece | LPAREN piece ( COMMA piece )* COMMA? RPAREN )          # banded
    | WEEKDAY NOT? IN LPAREN weekday ( COMMA weekday )* COMMA? RPAREN                   # weekdayIn
    | MONTH NOT? IN LPAREN monthName ( COMMA monthName )* COMMA? RPAREN                 # monthIn
    | DAY OF MONTH NOT? IN LPAREN NUMBER ( COMMA NUMBER )* COMMA? RPAREN                # dayOfMonthIn
    | TIME? IS? BETWEEN clock AND clock                          # timeBetween
    | IS? ( BEFORE | AFTER | FROM | UP TO ) CLOCK                # timed
    | IS? ( IN | OUTSIDE ) WORKING HOUR                          # workingHours
    | IS? ON A ( WORKING DAY | DAY OFF )                         # workingDay
    | IS? OVERLAPS TIME? BETWEEN clock AND clock ( IN | ON ) period                     # spannedDaily
    | IS? ( OVERLAPS | WITHIN | COVERS | STARTS IN | ENDS IN ) period                   # spanned
    ;

/** A register. */
place : name | BRACKETED ;

/** A date phrase, or another field of the record. */
when : period | otherField ;

otherField : ( KNOWN | BRACKETED ) offset? ;

offset : ( PLUS | MINUS )? ( NUMBER unitName? | length ) ;

sign : EQ | NE | GT | GE | LT | LE ;

/** A text or a blank for one. */
piece : STRING | ASK ;

/** A time of day or a blank for one. */
clock : CLOCK | ASK ;

valueList : LPAREN value ( COMMA value )* COMMA? RPAREN ;

value
    : STRING
    | length
    | NUMBER
    | YES
    | NO
    | ME
    | MY name
    | ASK
    | name offset?
    | BRACKETED offset?
    ;

/** A duration. */
length : ( NUMBER lengthUnit )+ | MINUS? ISO_LENGTH ;

lengthOrAsk : length | ASK ;

lengthUnit : LENGTH_UNIT | MINUTE | HOUR | DAY | WEEK ;

count : NUMBER | ASK ;

period : simplePeriod ( ( TO | SLASH ) simplePeriod )? ;

simplePeriod : ( START | END ) OF plainPeriod | plainPeriod ;

plainPeriod
    : ( TODAY | YESTERDAY | TOMORROW )                 # nearDay
    | ( THIS | LAST | NEXT ) unitName                  # calendar
    | ( LAST | NEXT ) count unitName                   # running
    | ( LAST | NEXT ) count FULL unitName              # full
    | count unitName ( AGO | FROM NOW )                # away
    | weekday OF ( THIS | LAST | NEXT ) WEEK           # weekdayOf
    | ( ISO_DATE | FISCAL_DATE | NUMBER )              # literal
    | LOCAL_DATE                                       # localDate
    | ASK                                              # asked
    ;

unitName : ( FISCAL | WORKING )? ( MINUTE | HOUR | DAY | WEEK | MONTH | QUARTER | HALF | YEAR ) ;

weekday : MONDAY | TUESDAY | WEDNESDAY | THURSDAY | FRIDAY | SATURDAY | SUNDAY ;

monthName
    : JANUARY | FEBRUARY | MARCH | APRIL | MAY | JUNE | JULY | AUGUST | SEPTEMBER | OCTOBER | NOVEMBER | DECEMBER
    ;

name
    : WORD | KNOWN | AND | OR | OFF | IS | IN | ON | EMPTY | LIKE | EXACTLY | MORE_WORD | LESS | THAN | AT | LEAST | MOST
    | CONTAINS | DOES | CONTAIN | STARTS | ENDS | WITH | HAS | ANY | ALL | NONE | OF | BETWEEN | BEFORE | AFTER
    | FROM | UP | TO | YES | NO | ME | MY | TODAY | YESTERDAY | TOMORROW | THIS | LAST | NEXT | FULL | AGO | NOW
    | START | END | FISCAL | WORKING | MINUTE | HOUR | DAY | WEEK | MONTH | QUARTER | HALF | YEAR
    | MONDAY | TUESDAY | WEDNESDAY | THURSDAY | FRIDAY | SATURDAY | SUNDAY | FISCAL_DATE
    | LENGTH_UNIT | ISO_LENGTH
    | MATCHES | BAND | WHERE | WEEKDAY | TIME | OUTSIDE | A | OVERLAPS | WITHIN | COVERS
    | JANUARY | FEBRUARY | MARCH | APRIL | MAY | JUNE | JULY | AUGUST | SEPTEMBER | OCTOBER | NOVEMBER | DECEMBER
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
MONDAY : 'monday' | 'mon' ;
TUESDAY : 'tuesday' | 'tue' ;
WEDNESDAY : 'wednesday' | 'wed' ;
THURSDAY : 'thursday' | 'thu' ;
FRIDAY : 'friday' | 'fri' ;
SATURDAY : 'saturday' | 'sat' ;
SUNDAY : 'sunday' | 'sun' ;

/** The short forms of units of durations; the long ones stand above. */
LENGTH_UNIT : 's' | 'sec' 's'? | 'second' 's'? | 'm' | 'min' 's'? | 'h' | 'hr' 's'? | 'd' | 'w' ;

MATCHES : 'matches' ;
BAND : 'band' 's'? ;
WHERE : 'where' ;
WEEKDAY : 'weekday' ;
TIME : 'time' ;
OUTSIDE : 'outside' ;
A : 'a' ;
OVERLAPS : 'overlaps' ;
WITHIN : 'within' ;
COVERS : 'covers' ;
JANUARY : 'january' | 'jan' ;
FEBRUARY : 'february' | 'feb' ;
MARCH : 'march' | 'mar' ;
APRIL : 'april' | 'apr' ;
MAY : 'may' ;
JUNE : 'june' | 'jun' ;
JULY : 'july' | 'jul' ;
AUGUST : 'august' | 'aug' ;
SEPTEMBER : 'september' | 'sep' ;
OCTOBER : 'october' | 'oct' ;
NOVEMBER : 'november' | 'nov' ;
DECEMBER : 'december' | 'dec' ;

/** The word and the expression between slashes in one: elsewhere a slash stands between two dates. */
MATCHING : 'matches' [ \t\r\n]+ '/' ( '\\' ~[\r\n] | ~[/\\\r\n] )+ '/' ;
OPEN_MATCHING : 'matches' [ \t\r\n]+ '/' ( '\\' ~[\r\n] | ~[/\\\r\n] )* ;

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
PLUS : '+' ;
MINUS : '-' ;
STAR : '*' ;

/** A wall-clock time. */
CLOCK : DIGIT DIGIT? ':' DIGIT DIGIT ( ':' DIGIT DIGIT ( '.' DIGIT+ )? )? ;
/** A blank for the reader; read in detail by the reader. */
ASK : '{' ( '"' ( '\\' . | ~["\\] )* '"' | ~["{}\r\n] )* '}' ;
OPEN_ASK : '{' ~[}\r\n]* ;

/** ISO 8601 days, months, quarters, halves, weeks and moments; checked in detail by the reader. */
ISO_DATE : DIGIT DIGIT DIGIT DIGIT '-' [0-9QHW] [0-9T:.-]* ( 'Z' | '+' [0-9:]+ )? ;
/** A duration as ISO 8601 writes it; checked in detail by the reader. */
ISO_LENGTH : 'P' ( ISO_PART [WD] )* ( 'T' ( ISO_PART [HMS] )+ | ISO_PART [WD] ) ;
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
fragment ISO_PART : DIGIT+ ( '.' DIGIT+ )? ;
